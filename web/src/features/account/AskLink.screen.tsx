import { useMutation } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import "./SignIn.css";

/** The password is forgotten: a link by mail sets a new one. */
export default function AskLink() {
  const ask = useMutation({ mutationFn: (body: Schemas["LinkAskedIn"]) => answer(api.POST("/api/password-links", { body })) });
  return (
    <main className="sign-in">
      <h1>A new password</h1>
      {ask.error && <Trouble error={ask.error} />}
      {ask.isSuccess ? (
        <p role="status">
          If there is an account with this mail address, a link is on its way to it. It is good once, and for three days.
        </p>
      ) : (
        <Themed>
          <Form layout="vertical" requiredMark={false} onFinish={(values: Schemas["LinkAskedIn"]) => ask.mutate(values)}>
            <Form.Item name="email" label="Mail address" rules={[{ required: true, message: "Type your mail address." }]}>
              <Input
                // eslint-disable-next-line jsx-a11y/no-autofocus -- the screen is for nothing else than this form
                autoFocus
                type="email"
                autoComplete="username"
                inputMode="email"
              />
            </Form.Item>
            <Button type="primary" htmlType="submit" block loading={ask.isPending}>
              Send me a link
            </Button>
          </Form>
        </Themed>
      )}
      <p>
        <Link to="/">Back to the sign-in</Link>
      </p>
    </main>
  );
}
