import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { PaperRules } from "../../folio/PaperRules";
import { Judgement } from "../../folio/Judgement";
import { Shooting } from "../../folio/shooting/Shooting";
import type { Schemas } from "../../shared/api/client";
import { queryKeys } from "../../shared/queryKeys";
import { Trouble } from "../../shared/ui/Trouble";
import { rememberLast, sendTestPicture } from "./cameraLine";
import { PHONE } from "./phone";

/** Before the work is begun: one picture, to see that it arrives and how it is judged. */
export function TestShot({ told, secret }: { told: Schemas["CameraOut"]; secret: string }) {
  const queries = useQueryClient();
  useEffect(() => rememberLast(secret), [secret]);
  const send = useMutation({
    mutationFn: (picture: File) => sendTestPicture(secret, picture),
    onSuccess: () => queries.invalidateQueries({ queryKey: queryKeys.camera(secret) }),
  });
  const [newest] = told.test_pictures;
  return (
    <>
      <p role="status">
        <strong>This phone is linked.</strong> The work is not begun yet; once it is, its pages are photographed here: keep this
        address, or leave it open. Until then one test picture shows whether all is well. It counts for nothing.
      </p>
      <Shooting what="a test page" name="test" keep="Send this test" own={PHONE} onKeep={(picture) => send.mutate(picture)} />
      {send.isPending && <p role="status">Sending …</p>}
      {send.error && <Trouble error={send.error} />}
      {newest && <Judgement picture={newest} rules={told.paper_rules} />}
      <PaperRules rules={told.paper_rules} />
    </>
  );
}
