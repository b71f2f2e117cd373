import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// The service answers /api on 8420 while the console is developed with `npx vite`.
export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: "dist", emptyOutDir: true, assetsInlineLimit: 0, chunkSizeWarningLimit: 800 },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
