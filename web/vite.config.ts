import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Shaders are written to be read; what is shipped leaves out their comments and empty space. */
const shaders: Plugin = {
  name: "shaders",
  apply: "build",
  enforce: "pre",
  transform(code, id) {
    if (id.includes("/three.module"))
      return code
        .replace(/(?:\\n(?:\\t| )*)+/g, "\\n")
        .replace(/"(?:[^"\\]|\\.)*\\n(?:[^"\\]|\\.)*"/g, (text) =>
          text.replace(/\( /g, "(").replace(/ \)/g, ")"),
        );
    if (!id.endsWith(".ts") || !code.includes("/* glsl */")) return null;
    return code.replace(/\/\* glsl \*\/ `((?:\\.|[^`\\])*)`/g, (_, text: string) => {
      const bare = text.replace(/\/\*[\s\S]*?\*\//g, "");
      const lines = bare.split("\n").map((line) => {
        const told = line.replace(/\/\/.*$/, "").trim();
        return told.startsWith("#")
          ? told
          : told.replace(/ *([=*/<>?:;,{}()&|]) */g, "$1").replace(/ ([+-]) (?=[\w(])/g, "$1");
      });
      return `\`${lines.filter(Boolean).join("\n")}\n\``;
    });
  },
};

export default defineConfig({
  plugins: [shaders, react(), tailwind()],
  build: { target: "es2022", chunkSizeWarningLimit: 1500 },
});
