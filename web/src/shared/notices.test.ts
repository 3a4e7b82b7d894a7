import { expect, test, vi } from "vitest";
import { type Notice, notices } from "./notices";

const notice = (key: string): Notice => ({ key, kind: "info", title: key, description: "", seconds: 0 });

test("what is to be told waits until it is told, each once", () => {
  const heard = vi.fn();
  const forget = notices.subscribe(heard);
  notices.add(notice("first"));
  notices.add(notice("second"));
  const waiting = notices.toTell();
  expect(waiting.map((one) => one.key)).toEqual(["first", "second"]);
  notices.add(notice("third")); // while the others are being told
  notices.told(waiting);
  expect(notices.toTell().map((one) => one.key)).toEqual(["third"]);
  expect(heard).toHaveBeenCalledTimes(4);
  forget();
  notices.told(notices.toTell());
  expect(notices.toTell()).toEqual([]);
});
