import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { useSignedIn } from "../../shared/me";
import { queryKeys } from "../../shared/queryKeys";
import { forgetFilesOf, keptFor } from "../../shared/sending/queues";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Masthead } from "../../shared/ui/Masthead";
import { QrCode } from "../../shared/ui/QrCode";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count, size } from "../../shared/words";
import "./Account.css";

/** One's own account: who one is here, password, second factor, where one is signed in, what this device keeps. */
export default function Account() {
  const me = useSignedIn();
  const account = useQuery({ queryKey: queryKeys.account, queryFn: () => answer(api.GET("/api/account")) });
  return (
    <div className="screen">
      <Masthead title="Your account" />
      <main className="account">
        <h1 className="unseen">Your account</h1>
        <section aria-labelledby="who">
          <h2 id="who">What your folios carry</h2>
          <p>
            <strong>{me.name}</strong>
            {me.number && ` · no. ${me.number}`} · {me.email}
          </p>
          <p className="soft">If something of it is wrong, tell your instructor: it comes from the roster of the course.</p>
        </section>
        <Password />
        {account.isError && <Trouble error={account.error} onRetry={() => void account.refetch()} />}
        {account.data && <SecondFactor account={account.data} />}
        <Sessions />
        <ThisDevice email={me.email} />
      </main>
    </div>
  );
}

function Password() {
  const [form] = Form.useForm<Schemas["PasswordIn"]>();
  const change = useMutation({
    mutationFn: (body: Schemas["PasswordIn"]) => answer(api.POST("/api/account/password", { body })),
    onSuccess: () => form.resetFields(),
  });
  return (
    <section aria-labelledby="password">
      <h2 id="password">Password</h2>
      {change.error && <Trouble error={change.error} />}
      {change.isSuccess && <p role="status">Changed. Other devices are signed out; this one goes on.</p>}
      <Themed>
        <Form form={form} layout="vertical" requiredMark={false} onFinish={(values) => change.mutate(values)}>
          <Form.Item name="old" label="The one you have now" rules={[{ required: true, message: "Type it, so that it is surely you." }]}>
            <Input.Password autoComplete="current-password" />
          </Form.Item>
          <NewPassword />
          <Button htmlType="submit" loading={change.isPending}>
            Change it
          </Button>
        </Form>
      </Themed>
    </section>
  );
}

export function NewPassword() {
  return (
    <Form.Item
      name="new"
      label="The new one"
      extra="At least 10 characters. Several words are easy to keep in mind."
      rules={[{ required: true, min: 10, message: "At least 10 characters." }]}
    >
      <Input.Password autoComplete="new-password" />
    </Form.Item>
  );
}

function SecondFactor({ account }: { account: Schemas["AccountOut"] }) {
  const queries = useQueryClient();
  const again = () => queries.invalidateQueries({ queryKey: queryKeys.account });
  const begin = useMutation({ mutationFn: () => answer(api.POST("/api/account/second-factor")) });
  const confirm = useMutation({
    mutationFn: (body: Schemas["CodeIn"]) => answer(api.POST("/api/account/second-factor/confirm", { body })),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: ({ old }: { old: string }) => answer(api.POST("/api/account/second-factor/remove", { body: { old, new: "" } })),
    onSuccess: () => {
      begin.reset();
      confirm.reset();
      return again();
    },
  });
  return (
    <section aria-labelledby="second">
      <h2 id="second">Second factor</h2>
      {account.second_factor_since === null && !begin.data && (
        <>
          <p className="soft">
            Signing in can also ask for a code that an authenticator application on your phone shows. Administrators should have
            one.
          </p>
          {begin.error && <Trouble error={begin.error} />}
          <Themed>
            <Button onClick={() => begin.mutate()} loading={begin.isPending}>
              Set it up
            </Button>
          </Themed>
        </>
      )}
      {account.second_factor_since === null && begin.data && (
        <div className="account-code">
          <QrCode modules={begin.data.modules} label="Code for the authenticator application" />
          <div>
            <p>
              Read this with your authenticator application, or type <span className="hash">{begin.data.secret}</span> there. Then
              type the code it shows.
            </p>
            {confirm.error && <Trouble error={confirm.error} />}
            <Themed>
              <Form layout="inline" requiredMark={false} colon={false} onFinish={(values: Schemas["CodeIn"]) => confirm.mutate(values)}>
                <Form.Item name="code" label="Code" rules={[{ required: true, message: "Six figures." }]}>
                  <Input inputMode="numeric" autoComplete="one-time-code" maxLength={8} style={{ width: 120 }} />
                </Form.Item>
                <Button htmlType="submit" loading={confirm.isPending}>
                  It works
                </Button>
              </Form>
            </Themed>
          </div>
        </div>
      )}
      {confirm.data && (
        <div role="status">
          <p>Set up. Keep these codes on paper: each signs you in once when the phone is lost. They are shown only now.</p>
          <p className="account-spare">{confirm.data.codes.join("  ")}</p>
        </div>
      )}
      {account.second_factor_since !== null && (
        <>
          <p>It is on. {count(account.spare_codes, "spare code")} left.</p>
          {remove.error && <Trouble error={remove.error} />}
          <Themed>
            <Form layout="inline" requiredMark={false} colon={false} onFinish={(values: { old: string }) => remove.mutate(values)}>
              <Form.Item name="old" label="Password" rules={[{ required: true, message: "Type your password." }]}>
                <Input.Password autoComplete="current-password" />
              </Form.Item>
              <Button htmlType="submit" loading={remove.isPending}>
                Remove it
              </Button>
            </Form>
          </Themed>
        </>
      )}
    </section>
  );
}

function Sessions() {
  const queries = useQueryClient();
  const [asking, setAsking] = useState(false);
  const end = useMutation({
    mutationFn: () => answer(api.DELETE("/api/account/sessions")),
    onSuccess: () => queries.setQueryData(queryKeys.me, null),
  });
  return (
    <section aria-labelledby="sessions">
      <h2 id="sessions">Signed in elsewhere?</h2>
      {end.error && <Trouble error={end.error} />}
      <Themed>
        <Button onClick={() => setAsking(true)} loading={end.isPending}>
          Sign out everywhere
        </Button>
      </Themed>
      {asking && (
        <AskOnce title="Sign out everywhere?" yes="Sign out everywhere" no="Stay" onNo={() => setAsking(false)} onYes={() => end.mutate()}>
          Here and on every other device. Files that are not on the server yet wait on their device.
        </AskOnce>
      )}
    </section>
  );
}

function ThisDevice({ email }: { email: string }) {
  const queries = useQueryClient();
  const kept = useQuery({ queryKey: queryKeys.keptFiles(email), queryFn: () => keptFor(email), staleTime: 0 });
  const [asking, setAsking] = useState(false);
  const files = kept.data ?? [];
  const forget = async () => {
    setAsking(false);
    await forgetFilesOf(email);
    navigator.serviceWorker?.controller?.postMessage("forget");
    await queries.invalidateQueries({ queryKey: queryKeys.keptFiles(email) });
  };
  const bytes = files.reduce((sum, one) => sum + one.file.size, 0);
  return (
    <section aria-labelledby="device">
      <h2 id="device">This device</h2>
      {files.length === 0 ? (
        <p className="soft">It keeps no file of yours: all that you chose is on the server.</p>
      ) : (
        <>
          <p>
            It keeps {count(files.length, "file")} of yours ({size(bytes)}) that the server has not taken: {files.map((one) => one.name).join(", ")}.
          </p>
          <Themed>
            <Button danger onClick={() => setAsking(true)}>
              Forget my files on this device
            </Button>
          </Themed>
        </>
      )}
      {asking && (
        <AskOnce title={`Forget ${count(files.length, "file")}?`} yes="Forget them" no="Keep them" onNo={() => setAsking(false)} onYes={() => void forget()}>
          The server does not have them. If they are nowhere else, they are lost.
        </AskOnce>
      )}
    </section>
  );
}
