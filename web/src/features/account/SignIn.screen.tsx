import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { Themed } from "../../shared/ui/Themed";
import { useMe } from "../../shared/me";
import { Trouble } from "../../shared/ui/Trouble";
import "./SignIn.css";
import { queryKeys } from "../../shared/queryKeys";

export default function SignIn() {
  const unreachable = useMe().isError;
  const queries = useQueryClient();
  const signIn = useMutation({
    mutationFn: (credentials: Schemas["Credentials"]) => answer(api.POST("/api/session", { body: credentials })),
    onSuccess: (me) => {
      const wanted = new URLSearchParams(location.search).get("next");
      if (wanted?.startsWith("/admin/")) return location.assign(wanted); // the administration's own pages
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" }); // it may be another person now
      queries.setQueryData(queryKeys.me, me);
    },
  });
  const needsCode = signIn.error instanceof Problem && ["second_factor", "wrong_code"].includes(signIn.error.code);
  return (
    <main className="sign-in">
      <h1>
        <em>Inked Folio</em>
      </h1>
      <p className="soft">Lay the pages down, look once, hand in.</p>
      {unreachable && <Trouble error={new Error("The server cannot be reached. Check the network and reload.")} />}
      {signIn.error && <Trouble error={signIn.error} />}
      <Themed>
        <Form layout="vertical" requiredMark={false} onFinish={(values: Schemas["Credentials"]) => signIn.mutate(values)}>
          <Form.Item name="email" label="Mail address" rules={[{ required: true, message: "Type your mail address." }]}>
            <Input type="email" autoComplete="username" inputMode="email" />
          </Form.Item>
          <Form.Item name="password" label="Password" rules={[{ required: true, message: "Type your password." }]}>
            <Input.Password autoComplete="current-password" />
          </Form.Item>
          {needsCode && (
            <Form.Item name="code" label="Code of your authenticator application" rules={[{ required: true, message: "Six figures." }]}>
              <Input inputMode="numeric" autoComplete="one-time-code" maxLength={9} />
            </Form.Item>
          )}
          <Button type="primary" htmlType="submit" block loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
      </Themed>
      <p>
        <Link to="/password">Password forgotten?</Link>
      </p>
    </main>
  );
}
