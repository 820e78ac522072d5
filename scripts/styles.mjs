// Holds the stylesheets of the folders to what they are for: every class a folder uses of its own sheet is
// there, every one that is there is used, and no two sheets have one of the same name (classes keep their
// names, so that a test can name them).
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";

const src = join(import.meta.dirname, "../web/src");
const folders = readdirSync(src, { withFileTypes: true }).filter((f) => f.isDirectory());
const wrong = [];
const home = new Map();
for (const { name: folder } of folders) {
  const files = readdirSync(join(src, folder));
  if (!files.includes(`${folder}.module.css`)) continue;
  const sheet = readFileSync(join(src, folder, `${folder}.module.css`), "utf8")
    .replace(/\/\*[\s\S]*?\*\//g, "")
    // What stands in :global() is of another sheet.
    .replace(/:global\([^)]*\)/g, "");
  const selectors = sheet.match(/[^{}]+(?=\{)/g) ?? [];
  const defined = new Set(selectors.flatMap((s) => [...s.matchAll(/\.([a-z][\w-]*)/g)].map((m) => m[1])));
  const sources = files.filter((f) => /\.tsx?$/.test(f) && !/\.test\.tsx?$/.test(f));
  const used = new Set(
    sources.flatMap((f) => {
      const text = readFileSync(join(src, folder, f), "utf8");
      return [...text.matchAll(/\bcss(?:\.(\w+)|\["([\w-]+)"\])/g)].map((m) => m[1] ?? m[2]);
    }),
  );
  for (const name of used) if (!defined.has(name)) wrong.push(`${folder}: ${name} is used and nowhere defined`);
  for (const name of defined) {
    if (!used.has(name)) wrong.push(`${folder}: ${name} is defined and not used`);
    if (home.has(name)) wrong.push(`${name} is defined by ${home.get(name)} and by ${folder}`);
    home.set(name, folder);
  }
}
if (wrong.length > 0) {
  for (const line of wrong) console.error(line);
  process.exit(1);
}
console.log(`${home.size} classes in ${new Set(home.values()).size} stylesheets, each defined once and used.`);
