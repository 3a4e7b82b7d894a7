import type { Schemas } from "../../shared/api/client";
import { clockTime } from "../../shared/time";
import { count } from "../../shared/words";

/** One event of a sitting's record as a sentence. */
export function eventWords({ kind, detail }: Schemas["RecordLine"], zone: string): string {
  const text = (name: string) => String(detail[name] ?? "");
  switch (kind) {
    case "begun":
      return "Began";
    case "arrived": {
      const promised = text("promised_at") && `, promised ${clockTime(text("promised_at"), zone, true)}`;
      return `${text("file_name")} is safe${promised} · SHA-256 ${text("sha256")}`;
    }
    case "pledged": {
      const pages = Array.isArray(detail["pages"]) ? detail["pages"] : [];
      return `Promised ${count(pages.length, "page")}: ${pages.map((page: { file_name: string }) => page.file_name).join(", ")}`;
    }
    case "failed":
      return `A file could not be opened (${text("trouble").replaceAll("_", " ")})`;
    case "arranged":
      return `Order or places changed (version ${text("version")})`;
    case "retaken":
      return "A page was taken again";
    case "handed_in":
      return `Edition ${text("edition")} handed in${detail["by_itself"] ? " by itself" : ""}${text("verdict") === "late" ? ", late" : ", in time"}`;
    case "bound":
      return `Edition ${text("edition")} bound · SHA-256 ${text("sha256")}`;
    case "lengthened":
      return `${text("by")} gave ${count(Number(detail["minutes"]), "minute")}`;
    default:
      return kind;
  }
}
