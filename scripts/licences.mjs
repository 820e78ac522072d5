#!/usr/bin/env node
// Holds every package that is built in to the licences allowed here, and to versions that are not known to be
// unsafe. Works without a network: crates by their manifests as cargo has them, npm packages as installed.
import { execFileSync } from "node:child_process";
import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
/** Licences that ask for no more than their text. MPL-2.0 and CC-BY-4.0 are met by shipping unchanged packages. */
const ALLOWED = new Set([
  "0BSD", "Apache-2.0", "Apache-2.0 WITH LLVM-exception", "BlueOak-1.0.0", "BSD-2-Clause", "BSD-3-Clause", "BSL-1.0",
  "CC-BY-4.0", "CC0-1.0", "ISC", "MIT", "MIT-0", "MPL-2.0", "OFL-1.1", "Python-2.0", "Unicode-3.0", "Unlicense", "Zlib",
]);
/** Advisories that were read of packages of these names: [ecosystem, name, first safe version, advisory]. */
const UNSAFE = [
  ["cargo", "rsa", null, "RUSTSEC-2023-0071"],
  ["cargo", "sqlx", "0.8.1", "RUSTSEC-2024-0363"],
  ["cargo", "idna", "1.0.0", "RUSTSEC-2024-0421"],
  ["cargo", "tokio", "1.44.2", "RUSTSEC-2025-0023"],
  ["cargo", "tracing-subscriber", "0.3.20", "RUSTSEC-2025-0055"],
  ["cargo", "time", "0.2.23", "RUSTSEC-2020-0071"],
  ["cargo", "image", "0.23.12", "RUSTSEC-2020-0073"],
  ["cargo", "hyper", "0.14.10", "RUSTSEC-2021-0078"],
  ["npm", "vite", "6.2.7", "GHSA-859w-5945-r5v3"],
];

/** Whether an SPDX expression can be met with allowed licences alone: one side of OR, both sides of AND. */
function allowed(expression) {
  const tokens = expression.replaceAll("/", " OR ").match(/\(|\)|[\w.+-]+(?: WITH [\w.+-]+)?/g) ?? [];
  let i = 0;
  const atom = () => {
    if (tokens[i] !== "(") return ALLOWED.has(tokens[i++]);
    i++;
    const inside = either();
    i++;
    return inside;
  };
  const both = () => {
    let all = atom();
    while (tokens[i] === "AND") { i++; all = atom() && all; }
    return all;
  };
  const either = () => {
    let any = both();
    while (tokens[i] === "OR") { i++; any = both() || any; }
    return any;
  };
  return either() && i === tokens.length;
}

const number = (version) => version.split(/[.+-]/).slice(0, 3).map(Number);
function before(version, limit) {
  const [a, b] = [number(version), number(limit)];
  const at = a.findIndex((n, i) => n !== b[i]);
  return at >= 0 && a[at] < b[at];
}

const packages = [];
const metadata = execFileSync("cargo", ["metadata", "--format-version", "1", "--locked", "--offline"], { cwd: root, maxBuffer: 1 << 28 });
const { packages: crates, resolve } = JSON.parse(metadata);
const used = new Set(resolve.nodes.map((node) => node.id));
for (const one of crates) {
  if (used.has(one.id)) packages.push({ of: "cargo", name: one.name, version: one.version, licence: one.license ?? "" });
}
const lock = JSON.parse(readFileSync(join(root, "web/package-lock.json"), "utf8"));
for (const path of Object.keys(lock.packages)) {
  const manifest = join(root, "web", path, "package.json");
  if (!path || !existsSync(manifest)) continue;
  const { name, version, license } = JSON.parse(readFileSync(manifest, "utf8"));
  packages.push({ of: "npm", name, version, licence: typeof license === "string" ? license : (license?.type ?? "") });
}

const wrong = [];
for (const { of, name, version, licence } of packages) {
  if (!allowed(licence)) wrong.push(`${of} ${name} ${version}: licence “${licence}”`);
  for (const [where, what, safe, advisory] of UNSAFE) {
    if (where === of && what === name && (safe === null || before(version, safe))) wrong.push(`${of} ${name} ${version}: ${advisory}`);
  }
}
if (wrong.length > 0) {
  console.error(wrong.join("\n"));
  process.exit(1);
}
console.log(`${packages.length} packages, all under allowed licences, none of a version known to be unsafe.`);
