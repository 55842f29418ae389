// Bundles the page. The result is committed, so that building the command needs Rust alone.

import { build } from "esbuild";

await build({
  entryPoints: ["src/main.tsx"],
  outfile: "../src/live/page.mjs",
  bundle: true,
  format: "esm",
  target: "es2022",
  minify: true,
  legalComments: "none",
  charset: "utf8",
  jsx: "automatic",
  jsxImportSource: "preact",
  logLevel: "warning",
});
