import { transformAsync } from "@babel/core";
import react from "@vitejs/plugin-react";
import type { Plugin } from "vite";
import { defineConfig } from "vitest/config";

/** What a component shows is worked out anew only where what it is made of has changed: the compiler of React itself. */
const compiled: Plugin = {
  name: "react-compiler",
  enforce: "pre",
  async transform(code, id) {
    if (!/\/src\/.*\.tsx?$/.test(id)) return null;
    const found = await transformAsync(code, {
      filename: id,
      babelrc: false,
      configFile: false,
      sourceMaps: true,
      parserOpts: { plugins: ["typescript", "jsx"] },
      plugins: [["babel-plugin-react-compiler", {}]],
    });
    return found?.code ? { code: found.code, map: found.map } : null;
  },
};

export default defineConfig({
  plugins: [compiled, react()],
  build: { outDir: "dist", chunkSizeWarningLimit: 1600 },
  test: { environment: "happy-dom", include: ["tests/**/*.test.{ts,tsx}"] },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
