// Runs the Khronos validator over .glb files; prints, for each, its issues as JSON.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";

const validator = createRequire(new URL("../web/package.json", import.meta.url))("gltf-validator");
const told = {};
for (const path of process.argv.slice(2)) {
  const report = await validator.validateBytes(new Uint8Array(readFileSync(path)), { maxIssues: 1000 });
  const { numErrors, numWarnings, messages } = report.issues;
  told[path] = { errors: numErrors, warnings: numWarnings, first: messages.slice(0, 12) };
}
console.log(JSON.stringify(told));
