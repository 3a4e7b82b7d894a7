import type { Schemas } from "../../shared/api/client";

export type PageKinds = Schemas["LimitsOut"]["kinds"];
const PICTURES = ".jpg,.jpeg,.png,.heic,.heif,.avif,.webp,.tif,.tiff,.bmp,.gif,image/*";
const PDF = ".pdf,application/pdf";
/** What a file dialog offers; the server decides by the content. */
export const ACCEPTED: Record<PageKinds, string> = { any: `${PICTURES},${PDF}`, pictures: PICTURES, pdf: PDF };
export const ACCEPTED_PICTURES = "image/*,.heic,.heif,.avif";
