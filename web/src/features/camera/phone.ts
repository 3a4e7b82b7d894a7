/** What a phone's own way of taking a picture is called, beside the live view. */
export const PHONE = {
  offer: "Use the phone's own camera",
  label: "The phone's own camera",
  without: "The live view is not allowed or not possible here. The phone's own camera does it as well.",
};
