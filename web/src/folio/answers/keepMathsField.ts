/** Has the browser keep the maths field, so that it opens without a network too. It is large: only where maths is typed. */
export function keepMathsField() {
  void navigator.serviceWorker?.ready.then((one) => one.active?.postMessage("keep the maths field"));
}
