import { fileURLToPath } from "node:url";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";
import { ROUTES } from "./src/app/routes.ts";

const backend = process.env.FOLIO_BACKEND ?? "http://127.0.0.1:8310";

const FRAME =
  /node_modules\/(react|react-dom|scheduler|react-router|@tanstack|idb|openapi-fetch)\/|src\/shared\/(?!theme|sending\/inPieces|ui\/(?!Button|Trouble|Masthead|later|Explained))/;

/** The list of screens beside the manifest, for the page shell: what to ask for early at which address. */
const screens: Plugin = {
  name: "screens",
  generateBundle() {
    this.emitFile({ type: "asset", fileName: "routes.json", source: JSON.stringify(ROUTES) });
  },
};

export default defineConfig(({ command }) => ({
  base: command === "build" ? "/static/app/" : "/",
  plugins: [react(), screens],
  // Formulas are read without the browser's own parser: it would apply their style attributes, which the policy forbids.
  resolve: { alias: { "hast-util-from-html-isomorphic": fileURLToPath(new URL("node_modules/hast-util-from-html-isomorphic/index.js", import.meta.url)) } },
  build: {
    assetsInlineLimit: 0, // the content security policy allows no data: fonts
    target: "es2022",
    sourcemap: false,
    chunkSizeWarningLimit: 900,
    manifest: "manifest.json",
    // What every screen needs comes in one file: a browser asks for only six at a time over HTTP/1.1.
    rolldownOptions: { input: ["index.html", "maths-field.html"], output: { advancedChunks: { groups: [{ name: "frame", test: FRAME }] } } },
  },
  test: { testTimeout: 120_000 }, // no test depends on speed
  server: { host: "127.0.0.1", port: 5173, strictPort: true, proxy: { "/api": backend, "/admin": backend } },
}));
