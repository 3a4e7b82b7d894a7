import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const backend = process.env.FOLIO_BACKEND ?? "http://127.0.0.1:8310";

const FRAME =
  /node_modules\/(react|react-dom|scheduler|react-router|@tanstack|idb|openapi-fetch)\/|src\/shared\/(?!Themed|theme|sending\/inPieces)/;

export default defineConfig(({ command }) => ({
  base: command === "build" ? "/static/app/" : "/",
  plugins: [react()],
  build: {
    target: "es2022",
    sourcemap: false,
    chunkSizeWarningLimit: 900,
    manifest: "screens.json",
    // What every screen needs comes in one file: a browser asks for only six at a time over HTTP/1.1.
    rolldownOptions: { output: { advancedChunks: { groups: [{ name: "frame", test: FRAME }] } } },
  },
  server: { host: "127.0.0.1", port: 5173, strictPort: true, proxy: { "/api": backend, "/admin": backend } },
}));
