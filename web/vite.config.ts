import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { licences } from "./licences.ts";

export default defineConfig({
  plugins: [react(), licences()],
  worker: { format: "es" },
  build: { target: "es2022", sourcemap: false, assetsInlineLimit: 0 },
  server: {
    proxy: {
      "/api": { target: "http://127.0.0.1:8430", ws: true },
      "/enter": "http://127.0.0.1:8430",
    },
  },
});
