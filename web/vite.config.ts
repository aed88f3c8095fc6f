import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { compression } from "vite-plugin-compression2";

export default defineConfig({
  // Each file is packed once, here, and only sent by the server.
  plugins: [react(), tailwind(), compression({ algorithms: ["brotliCompress", "gzip"], threshold: 1000 })],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    target: "es2023",
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    // Two pages: the workshop, and packing at the bench.
    rolldownOptions: { input: ["index.html", "pack.html"] },
  },
});
