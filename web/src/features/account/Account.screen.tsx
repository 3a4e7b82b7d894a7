import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input, Switch } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import { foliosWithUnsentAnswers } from "../../folio/answers/answerMemory";
import { answer, api, type Schemas } from "../../shared/api/client";
import { useSignedIn } from "../../shared/me";
import { queryKeys } from "../../shared/queryKeys";
import { forgetFilesOf, keptFor } from "../../shared/sending/queues";
import { AskOnce } from "../../shared/ui/AskOnce";
import { Masthead } from "../../shared/ui/Masthead";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count, size } from "../../shared/words";
import { AppearanceChoice } from "./AppearanceChoice";
import { MailChoices } from "./MailChoices";
import { SecondFactor } from "./SecondFactor";
import "./Account.css";

/** One's own account: who one is here, password, second factor, where one is signed in, what this device keeps. */
export default function Account() {
  const me = useSignedIn();
  const account = useQuery({ queryKey: queryKeys.account, queryFn: () => answer(api.GET("/api/account")) });
  return (
    <div className="screen">
      <Masthead help="account" title="Your account" />
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
        {account.data && <ReadingChoice wants={account.data.wants_proposals} />}
        <MailChoices />
        <AppearanceChoice />
        <ThisDevice email={me.email} />
      </main>
    </div>
  );
}

/** Whether one's pages are read at all. */
function ReadingChoice({ wants }: { wants: boolean }) {
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (wanted: boolean) => answer(api.PUT("/api/account/proposals", { body: { wants: wanted } })),
    onSettled: () => queries.invalidateQueries({ queryKey: queryKeys.account }),
  });
  return (
    <section aria-labelledby="reading">
      <h2 id="reading">Reading your labels</h2>
      {change.error && <Trouble error={change.error} />}
      <Themed>
        <p>
          <Switch
            id="wants-proposals"
            checked={change.isPending ? change.variables : wants}
            loading={change.isPending}
            onChange={(on) => change.mutate(on)}
          />{" "}
          <label htmlFor="wants-proposals">The labels on my pages are read, and places proposed to me</label>
        </p>
      </Themed>
      <p className="soft">Nothing leaves the college’s machine, and nothing holds before you confirm it.</p>
    </section>
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
      <UnsentAnswers />
      {asking && (
        <AskOnce title={`Forget ${count(files.length, "file")}?`} yes="Forget them" no="Keep them" onNo={() => setAsking(false)} onYes={() => void forget()}>
          The server does not have them. If they are nowhere else, they are lost.
        </AskOnce>
      )}
    </section>
  );
}

/** Answers that were typed on this device and are not on the server yet; opening their board sends them. */
function UnsentAnswers() {
  const here = foliosWithUnsentAnswers();
  const mine = useQuery({ queryKey: queryKeys.myFolios, queryFn: () => answer(api.GET("/api/my-folios")), enabled: here.length > 0 });
  const waiting = mine.data?.folios.filter((one) => one.folio_id !== null && here.includes(one.folio_id)) ?? [];
  if (waiting.length === 0) return null;
  return (
    <p className="red">
      Answers typed on this device are not on the server yet:{" "}
      {waiting.map((one) => (
        <Link key={one.folio_id} to={`/folios/${one.folio_id}`}>
          {one.assignment.title}
        </Link>
      ))}
      . Open it to send them.
    </p>
  );
}
