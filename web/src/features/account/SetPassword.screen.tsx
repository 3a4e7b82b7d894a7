import { useMutation } from "@tanstack/react-query";
import { Button, Form } from "antd";
import { Link, useParams } from "react-router";
import { answer, api } from "../../shared/api/client";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import "./SignIn.css";
import { NewPassword } from "./Account.screen";

/** Where the link of a mail leads. */
export default function SetPassword() {
  const { person = "", token = "" } = useParams();
  const set = useMutation({
    mutationFn: (values: { new: string }) => answer(api.POST("/api/password-links/use", { body: { person, token, new: values.new } })),
  });
  return (
    <main className="sign-in">
      <h1>A new password</h1>
      {set.error && <Trouble error={set.error} />}
      {set.isSuccess ? (
        <p role="status">
          It is set. <Link to="/">Sign in with it</Link>
        </p>
      ) : (
        <Themed>
          <Form layout="vertical" requiredMark={false} onFinish={(values: { new: string }) => set.mutate(values)}>
            <NewPassword />
            <Button type="primary" htmlType="submit" block loading={set.isPending}>
              Set it
            </Button>
          </Form>
        </Themed>
      )}
      <p>
        <Link to="/password">Ask for another link</Link>
      </p>
    </main>
  );
}
