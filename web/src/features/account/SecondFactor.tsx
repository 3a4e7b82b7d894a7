import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { useState } from "react";
import { answer, api, type Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { dayAndTime } from "../../shared/time";
import { QrCode } from "../../shared/ui/QrCode";
import { Themed } from "../../shared/ui/Themed";
import { Trouble } from "../../shared/ui/Trouble";
import { count } from "../../shared/words";
import { newPasskey, passkeysWork } from "./passkeys";

type Account = Schemas["AccountOut"];

/** What signing in asks for beside the password: an application's code, a passkey, or a spare code on paper. */
export function SecondFactor({ account }: { account: Account }) {
  const [spare, setSpare] = useState<string[]>([]);
  const isOn = account.second_factor_since !== null || account.passkeys.length > 0;
  return (
    <section aria-labelledby="second">
      <h2 id="second">Second factor</h2>
      <p className="soft">
        {isOn
          ? `Signing in asks for it beside the password. ${count(account.spare_codes, "spare code")} left.`
          : "Signing in can also ask for something that only you have. Administrators should have one."}
      </p>
      {spare.length > 0 && (
        <div role="status">
          <p>Set up. Keep these codes on paper: each signs you in once when the rest is lost. They are shown only now.</p>
          <p className="account-spare">{spare.join("  ")}</p>
        </div>
      )}
      <Application account={account} onCodes={setSpare} />
      <Passkeys account={account} onCodes={setSpare} />
    </section>
  );
}

interface PartProps {
  account: Account;
  onCodes: (codes: string[]) => void;
}

function Application({ account, onCodes }: PartProps) {
  const again = useAccountAgain();
  const begin = useMutation({ mutationFn: () => answer(api.POST("/api/account/second-factor")) });
  const confirm = useMutation({
    mutationFn: (body: Schemas["CodeIn"]) => answer(api.POST("/api/account/second-factor/confirm", { body })),
    onSuccess: ({ codes }) => {
      begin.reset();
      onCodes(codes);
      return again();
    },
  });
  const remove = useMutation({
    mutationFn: (body: Schemas["PasswordAgainIn"]) => answer(api.POST("/api/account/second-factor/remove", { body })),
    onSuccess: again,
  });
  return (
    <>
      <h3>Authenticator application</h3>
      {begin.error && <Trouble error={begin.error} />}
      {account.second_factor_since !== null ? (
        <Removable name={`On since ${day(account.second_factor_since)}`} what="the application" removal={remove} />
      ) : begin.data ? (
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
      ) : (
        <Themed>
          <Button onClick={() => begin.mutate()} loading={begin.isPending}>
            Set it up
          </Button>
        </Themed>
      )}
    </>
  );
}

function Passkeys({ account, onCodes }: PartProps) {
  const again = useAccountAgain();
  const [form] = Form.useForm<{ name: string }>();
  const add = useMutation({
    mutationFn: async ({ name }: { name: string }) =>
      answer(api.POST("/api/account/passkeys", { body: { name: name ?? "", credential: await newPasskey() } })),
    onSuccess: ({ codes }) => {
      form.resetFields();
      if (codes.length > 0) onCodes(codes);
      return again();
    },
  });
  const remove = useMutation({
    mutationFn: ({ id, password }: { id: number; password: string }) =>
      answer(api.POST("/api/account/passkeys/{passkey}/remove", { params: { path: { passkey: id } }, body: { password } })),
    onSuccess: again,
  });
  return (
    <>
      <h3>Passkeys</h3>
      {account.passkeys.map((one) => (
        <Removable
          key={one.id}
          name={`${one.name} · made ${day(one.made_at)} · ${one.used_at ? `last used ${day(one.used_at)}` : "not used yet"}`}
          what={one.name}
          removal={{ ...remove, mutate: ({ password }) => remove.mutate({ id: one.id, password }) }}
        />
      ))}
      {add.error && <Trouble error={add.error} />}
      {passkeysWork ? (
        <Themed>
          <Form form={form} layout="inline" colon={false} onFinish={(values: { name: string }) => add.mutate(values)}>
            <Form.Item name="name" label="Name of the device">
              <Input maxLength={80} placeholder="my phone" style={{ width: 180 }} />
            </Form.Item>
            <Button htmlType="submit" loading={add.isPending}>
              Add a passkey
            </Button>
          </Form>
        </Themed>
      ) : (
        <p className="soft">This browser has none to offer at this address.</p>
      )}
    </>
  );
}

interface Removal {
  mutate: (body: Schemas["PasswordAgainIn"]) => void;
  isPending: boolean;
  error: Error | null;
}

/** One factor; it goes only with the password. */
function Removable({ name, what, removal }: { name: string; what: string; removal: Removal }) {
  const [asking, setAsking] = useState(false);
  return (
    <div className="account-factor">
      <p>{name}</p>
      {!asking && (
        <button type="button" className="plain" onClick={() => setAsking(true)} aria-label={`Remove ${what}`}>
          Remove
        </button>
      )}
      {asking && (
        <Themed>
          {removal.error && <Trouble error={removal.error} />}
          <Form layout="inline" requiredMark={false} colon={false} onFinish={removal.mutate}>
            <Form.Item name="password" label="Password" rules={[{ required: true, message: "Type your password." }]}>
              <Input.Password autoComplete="current-password" />
            </Form.Item>
            <Button htmlType="submit" danger loading={removal.isPending}>
              Remove it
            </Button>
            <Button onClick={() => setAsking(false)}>Keep it</Button>
          </Form>
        </Themed>
      )}
    </div>
  );
}

function day(moment: string): string {
  return dayAndTime(moment, Intl.DateTimeFormat().resolvedOptions().timeZone);
}

function useAccountAgain() {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: queryKeys.account });
}
