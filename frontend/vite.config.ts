import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const backend = `http://127.0.0.1:${process.env.ALMANAC_BACKEND ?? "8480"}`;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: { "@": new URL("./src", import.meta.url).pathname } },
  build: { target: "es2022", sourcemap: false, chunkSizeWarningLimit: 600, assetsInlineLimit: 0 },
  server: { proxy: { "/api": backend } },
});
