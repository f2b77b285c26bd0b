import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "../src/Bostel.Server/wwwroot", emptyOutDir: true, chunkSizeWarningLimit: 2000 },
  worker: { format: "es" },
  server: { proxy: { "/api": "http://127.0.0.1:5310" } },
  test: { environment: "node", include: ["src/**/*.test.ts"] },
});
