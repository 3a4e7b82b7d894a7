import { type DetailedError, Upload } from "tus-js-client";
import type { Kept } from "./KeptFiles";
import { about, type Address, type Outcome, outcomeOf, type Progress, type Way } from "./outcome";

/** A large file by tus 1.0: after a break it goes on from the last piece the server has. */
export function inPieces(address: Address, kept: Kept, { pieceBytes, seconds }: Way, { onShare, onUploadUrl }: Progress): Promise<Outcome> {
  return new Promise((resolve) => {
    const upload = new Upload(kept.file, {
      endpoint: address.uploads,
      uploadUrl: kept.uploadUrl,
      chunkSize: pieceBytes,
      uploadDataDuringCreation: true,
      retryDelays: null, // the queue waits and tries again by itself
      storeFingerprintForResuming: false, // it keeps the address too
      metadata: { filename: kept.file.name, ...about(kept, seconds) },
      onBeforeRequest: (request) => Object.entries(address.headers()).forEach(([name, value]) => request.setHeader(name, value)),
      onUploadUrlAvailable: () => upload.url && onUploadUrl(upload.url),
      onProgress: (sent, all) => onShare(sent / Math.max(1, all)),
      onSuccess: ({ lastResponse }) => resolve(outcomeOf(200, lastResponse.getHeader("Folio-Acknowledged") ?? "")),
      onError: (error) => {
        const response = (error as DetailedError).originalResponse;
        resolve(response ? outcomeOf(refusal(response.getStatus()), response.getBody()) : "unreachable");
      },
    });
    upload.start();
  });
}

/** An answer of another kind than the protocol's is somebody else's, who stands between us and the server. */
function refusal(status: number): number {
  return status < 400 ? 503 : status;
}
