import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const backend = process.env.FOLIO_BACKEND ?? "http://127.0.0.1:8310";

export default defineConfig(({ command }) => ({
  base: command === "build" ? "/static/app/" : "/",
  plugins: [react()],
  build: { target: "es2022", sourcemap: false, chunkSizeWarningLimit: 900, manifest: "screens.json" },
  server: { host: "127.0.0.1", port: 5173, strictPort: true, proxy: { "/api": backend, "/admin": backend } },
}));
