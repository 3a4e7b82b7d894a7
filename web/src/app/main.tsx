import "@fontsource/ibm-plex-sans/latin-400.css";
import "@fontsource/ibm-plex-sans/latin-600.css";
import "@fontsource/source-serif-4/latin-400.css";
import "@fontsource/source-serif-4/latin-400-italic.css";
import "@fontsource/source-serif-4/latin-600.css";
import "./theme.css";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import "../shared/appearance";
import { App, startEarly } from "./App";

if (import.meta.env.PROD && "serviceWorker" in navigator) {
  // Without it everything works, but not without a network.
  navigator.serviceWorker.register("/sw.js").catch(() => {});
}

const root = document.getElementById("root");
if (root) {
  await startEarly();
  createRoot(root).render(
    <StrictMode>
      <App />
    </StrictMode>,
  );
}
