import { readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { expect, it } from "vitest";

const ROOT = resolve(import.meta.dirname, "../../web/src");

function files(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    if (statSync(path).isDirectory()) return files(path);
    return /\.tsx?$/.test(name) ? [path] : [];
  });
}

/** The files of our own that a file imports, types too. */
function imports(path: string, all: ReadonlySet<string>): string[] {
  const found = readFileSync(path, "utf8").matchAll(/(?:from |import\()"(\.[^"?]+)/g);
  return [...found].flatMap(([, named = ""]) => {
    const at = resolve(dirname(path), named);
    return ["", ".ts", ".tsx"].map((end) => at + end).filter((one) => all.has(one));
  });
}

it("no file imports itself by way of others", () => {
  const all = new Set(files(ROOT));
  expect(all.size).toBeGreaterThan(50);
  const done = new Set<string>();
  const circles: string[] = [];
  const walk = (path: string, above: string[]) => {
    if (above.includes(path)) {
      circles.push(
        [...above.slice(above.indexOf(path)), path].map((p) => relative(ROOT, p)).join(" → "),
      );
      return;
    }
    if (done.has(path)) return;
    for (const next of imports(path, all)) walk(next, [...above, path]);
    done.add(path);
  };
  for (const path of all) walk(path, []);
  expect(circles).toEqual([]);
});
