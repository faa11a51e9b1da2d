import tailwindcss from "@tailwindcss/vite";
import babel from "@rolldown/plugin-babel";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react(), babel({ presets: [reactCompilerPreset()] }), tailwindcss()],
  build: {
    target: "es2022",
    chunkSizeWarningLimit: 1500,
    assetsInlineLimit: 0,
    rolldownOptions: { checks: { bundlerTimings: false } }, // the compiler takes most of the time, and may
  },
});
