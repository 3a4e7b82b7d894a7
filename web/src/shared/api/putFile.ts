import { csrfToken } from "./client";
import { Problem, problemFrom } from "./problem";

/** Sends a file as the body of one request; throws the Problem that the server, or the lack of it, answers with. */
export async function putFile(address: string, file: File): Promise<unknown> {
  const headers = { "X-CSRFToken": csrfToken(), "Content-Type": file.type || "application/octet-stream" };
  const response = await fetch(`${address}?name=${encodeURIComponent(file.name)}`, { method: "PUT", body: file, headers }).catch(() => {
    throw new Problem(0, "unreachable", "The server cannot be reached. The file is not sent; choose it again.");
  });
  const said: unknown = await response.json().catch(() => null);
  if (!response.ok) throw problemFrom(response.status, said);
  return said;
}
