#!/usr/bin/env node
// Every file that the documentation names is there.
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";

const files = execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard"], { encoding: "utf8" }).trim().split("\n");
const NAMED = /`([\w./-]+\.(?:rs|tsx?|css|scss|sql|csv|mjs|toml|md|html|png))`|\]\(([\w./-]+)\)/g;
let missing = 0;
for (const page of files.filter((f) => /^(docs\/)?[\w-]+\.md$/.test(f))) {
  for (const [, name, link] of readFileSync(page, "utf8").matchAll(NAMED)) {
    const at = link ? new URL(link, `file:///${page}`).pathname.slice(1) : name;
    const known = files.some((f) => (link ? f === at || f.startsWith(`${at}/`) : f === at || f.endsWith(`/${at}`)));
    // A folder, or a page of its own making when it runs.
    if (known || at.startsWith(".data/") || at === "") continue;
    console.error(`${page}: there is no ${name ?? link}`);
    missing += 1;
  }
}
if (missing > 0) process.exit(1);
console.log("Every file that the documentation names is there.");
