import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

const backend = process.env.HAZERIDGE_BACKEND ?? "http://127.0.0.1:8000";

export default defineConfig({
  plugins: [react()],
  build: { assetsDir: "assets", chunkSizeWarningLimit: 900 },
  // A machine that is busy with other tests types slowly.
  test: { include: ["tests/**/*.test.{ts,tsx}"], testTimeout: 60_000 },
  server: { proxy: { "/api": { target: backend }, "/ws": { target: backend, ws: true } } },
});
