#!/usr/bin/env node
// Holds the built front end to its budget: the scripts that the first page of a smith needs, compressed.
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { gzipSync } from "node:zlib";

const BUDGET = 120_000;
const dist = join(import.meta.dirname, "../web/dist");
const scripts = new Map();
for (const name of readdirSync(join(dist, "assets"))) {
  if (name.endsWith(".js")) scripts.set(name, readFileSync(join(dist, "assets", name), "utf8"));
}
const entry = /assets\/(index-[\w-]+\.js)/.exec(readFileSync(join(dist, "index.html"), "utf8"))[1];

/** A script and all that it imports at once. */
function closure(name, seen = new Set()) {
  if (seen.has(name)) return seen;
  seen.add(name);
  for (const [, file] of scripts.get(name).matchAll(/(?:from|import)\s*"\.\/([\w.-]+\.js)"/g)) closure(file, seen);
  return seen;
}

const size = (names) => [...names].reduce((sum, name) => sum + gzipSync(scripts.get(name), { level: 9 }).length, 0);
const place = (prefix) => [...scripts.keys()].filter((name) => new RegExp(`^${prefix}-[\\w-]{8}\\.js$`).test(name));

let over = false;
for (const [title, prefixes] of [["the sign-in", ["sign-in"]], ["the rack", ["signed-in", "rack"]]]) {
  const names = closure(entry);
  for (const prefix of prefixes) {
    const found = place(prefix);
    if (found.length !== 1) throw new Error(`${found.length} scripts are called ${prefix}`);
    closure(found[0], names);
  }
  const bytes = size(names);
  console.log(`First load of ${title}: ${(bytes / 1000).toFixed(0)} kB of script, compressed.`);
  over ||= bytes > BUDGET;
}
if (over) {
  console.error(`More than ${BUDGET / 1000} kB.`);
  process.exit(1);
}
