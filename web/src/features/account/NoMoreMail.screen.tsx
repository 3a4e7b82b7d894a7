import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, useParams } from "react-router";
import { answer, api } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { list } from "../../shared/words";
import "./SignIn.css";

/** Where the last line of a mail leads: mails of its kind end, without signing in. */
export default function NoMoreMail() {
  const { token = "" } = useParams();
  const params = { params: { path: { token } } };
  const about = useQuery({
    queryKey: queryKeys.noMoreMail(token),
    queryFn: () => answer(api.GET("/api/no-more-mail/{token}", params)),
  });
  const end = useMutation({ mutationFn: () => answer(api.POST("/api/no-more-mail/{token}", params)) });
  return (
    <main className="sign-in">
      <h1>No more mails of this kind</h1>
      {about.isError && <Trouble error={about.error} />}
      {end.isError && <Trouble error={end.error} />}
      {about.data && !end.isSuccess && (
        <>
          <p>
            {about.data.email} is mailed {list(about.data.words)}. In Inked Folio itself it is told all the same.
          </p>
          <Themed>
            <Button type="primary" block loading={end.isPending} onClick={() => end.mutate()}>
              End these mails
            </Button>
          </Themed>
        </>
      )}
      {end.isSuccess && <p role="status">These mails have ended. Under Account they can be switched on again.</p>}
      <p>
        <Link to="/account#mails">All that is mailed to me</Link>
      </p>
    </main>
  );
}
