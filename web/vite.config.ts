import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: { "@": "/src" } },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
  build: {
    chunkSizeWarningLimit: 1500,
    rolldownOptions: {
      output: {
        // What a release of ours does not change stays in the browser's cache.
        codeSplitting: {
          groups: [
            { name: "react", test: /node_modules\/(react|react-dom|react-router|scheduler)\// },
          ],
        },
      },
    },
  },
});
