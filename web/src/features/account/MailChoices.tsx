import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Choice } from "../../shared/ui/fields";
import { Trouble } from "../../shared/ui/Trouble";

type NoticeChoice = Schemas["NoticeChoiceOut"];

const WAYS = [
  { value: "at_once", label: "at once" },
  { value: "daily", label: "once a day, together" },
  { value: "never", label: "never" },
] satisfies { value: NoticeChoice["by_mail"]; label: string }[];

/** What of the notices is mailed, and when. */
export function MailChoices() {
  const queries = useQueryClient();
  const choices = useQuery({ queryKey: queryKeys.noticeChoices, queryFn: () => answer(api.GET("/api/notice-choices")) });
  const choose = useMutation({
    mutationFn: (body: Schemas["NoticeChoiceIn"]) => answer(api.PUT("/api/notice-choices", { body })),
    onSettled: () => queries.invalidateQueries({ queryKey: queryKeys.noticeChoices }),
  });
  const chosen = (one: NoticeChoice) => (choose.isPending && choose.variables.kind === one.kind ? choose.variables.by_mail : one.by_mail);
  if (choices.data?.length === 0) return null;
  return (
    <section aria-labelledby="mails">
      <h2 id="mails">What is mailed to you</h2>
      {choices.isError && <Trouble error={choices.error} onRetry={() => void choices.refetch()} />}
      {choose.isError && <Trouble error={choose.error} />}
      <ul className="mail-choices">
        {choices.data?.map((one) => (
          <li key={one.kind}>
            <span>{one.words}</span>
            <Choice label={`Mail me ${one.words}`} value={chosen(one)} options={WAYS} onChange={(way) => choose.mutate({ kind: one.kind, by_mail: way })} />
          </li>
        ))}
      </ul>
      <p className="soft">All of it stands under Notices too, whatever is mailed.</p>
    </section>
  );
}
