import { defineConfig } from "vite";

export default defineConfig({
  logLevel: "warn",
  build: {
    lib: {
      entry: new URL("entry.ts", import.meta.url).pathname,
      formats: ["iife"],
      name: "shaders",
      fileName: () => "shaders.js",
    },
    outDir: process.env.OUT,
    minify: false,
  },
});
