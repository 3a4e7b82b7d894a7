import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { Link } from "react-router";
import { answer, api, type Schemas } from "../../shared/api/client";
import { Problem } from "../../shared/api/problem";
import { Themed } from "../../shared/ui/Themed";
import { useMe } from "../../shared/me";
import { Trouble } from "../../shared/ui/Trouble";
import { passkeysWork, signedByPasskey } from "./passkeys";
import "./SignIn.css";
import { queryKeys } from "../../shared/queryKeys";
import { ByCollege } from "./ByCollege";

export default function SignIn() {
  const unreachable = useMe().isError;
  const queries = useQueryClient();
  const [form] = Form.useForm<Schemas["Credentials"]>();
  const signIn = useMutation({
    mutationFn: (credentials: Schemas["Credentials"]) => answer(api.POST("/api/session", { body: credentials })),
    onSuccess: async (me) => {
      const wanted = new URLSearchParams(location.search).get("next");
      if (wanted?.startsWith("/admin/")) return location.assign(wanted); // the administration's own pages
      queries.removeQueries({ predicate: (query) => query.queryKey[0] !== "me" }); // it may be another person now
      await queries.cancelQueries({ queryKey: queryKeys.me }); // asked before, it would say that nobody is signed in
      queries.setQueryData(queryKeys.me, me);
    },
  });
  const asksForMore = signIn.error instanceof Problem && signIn.error.code === "second_factor";
  const needsMore = asksForMore || (signIn.error instanceof Problem && signIn.error.code === "wrong_code");
  const asked = useQuery({
    queryKey: queryKeys.passkeyAsked(signIn.submittedAt),
    queryFn: () => answer(api.GET("/api/session/passkey")),
    enabled: needsMore && passkeysWork,
  });
  const passkey = useMutation({
    mutationFn: signedByPasskey,
    onSuccess: (signed) => signIn.mutate({ ...form.getFieldsValue(), code: "", passkey: signed }),
  });
  return (
    <main className="sign-in">
      <h1>
        <em>Inked Folio</em>
      </h1>
      <p className="soft">Lay the pages down, look once, hand in.</p>
      {unreachable && <Trouble error={new Error("The server cannot be reached. Check the network and reload.")} />}
      {signIn.error && (asksForMore ? <p role="status">{signIn.error.message}</p> : <Trouble error={signIn.error} />)}
      <Themed>
        <Form form={form} layout="vertical" requiredMark={false} onFinish={(values: Schemas["Credentials"]) => signIn.mutate(values)}>
          <Form.Item name="email" label="Mail address" rules={[{ required: true, message: "Type your mail address." }]}>
            <Input
              // eslint-disable-next-line jsx-a11y/no-autofocus -- the screen is for nothing else than this form
              autoFocus
              type="email"
              autoComplete="username"
              inputMode="email"
            />
          </Form.Item>
          <Form.Item name="password" label="Password" rules={[{ required: true, message: "Type your password." }]}>
            <Input.Password autoComplete="current-password" />
          </Form.Item>
          {needsMore && asked.data && (
            <Form.Item>
              <Button block onClick={() => asked.data && passkey.mutate(asked.data)} loading={passkey.isPending}>
                Use your passkey
              </Button>
              {passkey.error && <Trouble error={passkey.error} />}
            </Form.Item>
          )}
          {needsMore && (
            <Form.Item
              name="code"
              label="Code of your authenticator application, or a spare one"
              rules={[{ required: true, message: "Six figures, or eight of a spare code." }]}
            >
              <Input inputMode="numeric" autoComplete="one-time-code" maxLength={9} />
            </Form.Item>
          )}
          <Button type="primary" htmlType="submit" block loading={signIn.isPending}>
            Sign in
          </Button>
        </Form>
      </Themed>
      <ByCollege />
      <p>
        <Link to="/password">Password forgotten?</Link> · <Link to="/check-receipt">Check a receipt</Link>
      </p>
    </main>
  );
}
