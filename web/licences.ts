// Writes the licence of every package that is part of the built page into licences.json beside it.

import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { Plugin } from "vite";

type Package = { name: string; version: string; licence: string; text: string };

const FONTS = ["@fontsource-variable/figtree"]; // comes in by its style sheet, not by a script

/** The folder of the package that a module belongs to, or null for one of our own. */
function packageOf(module: string): string | null {
  const at = module.lastIndexOf("/node_modules/");
  if (at < 0) return null;
  const [first = "", second = ""] = module.slice(at + "/node_modules/".length).split("/");
  const name = first.startsWith("@") ? `${first}/${second}` : first;
  return `${module.slice(0, at)}/node_modules/${name}`;
}

function read(folder: string): Package {
  const about = JSON.parse(readFileSync(join(folder, "package.json"), "utf8"));
  const file = readdirSync(folder).find((name) => /^(licen[cs]e|copying)/i.test(name));
  if (!file) throw new Error(`${about.name} has no licence text; it cannot be shipped`);
  const text = readFileSync(join(folder, file), "utf8").trim();
  return { name: about.name, version: about.version, licence: String(about.license), text };
}

export function licences(): Plugin {
  return {
    name: "meldrin-licences",
    apply: "build",
    generateBundle(_, bundle) {
      const folders = new Set(FONTS.map((name) => join(import.meta.dirname, "node_modules", name)));
      for (const part of Object.values(bundle)) {
        if (part.type !== "chunk") continue;
        for (const module of Object.keys(part.modules)) {
          const folder = packageOf(module.replace(/^\0/, "").replace(/\?.*$/, ""));
          if (folder && existsSync(join(folder, "package.json"))) folders.add(folder);
        }
      }
      const packages = [...folders].map(read).toSorted((a, b) => a.name.localeCompare(b.name));
      this.emitFile({ type: "asset", fileName: "licences.json", source: JSON.stringify(packages) });
    },
  };
}
