/** What a file dialog offers; the server decides by the content. */
export const ACCEPTED = ".jpg,.jpeg,.png,.heic,.heif,.avif,.webp,.tif,.tiff,.bmp,.gif,.pdf,image/*,application/pdf";
export const ACCEPTED_PICTURES = "image/*,.heic,.heif,.avif";
