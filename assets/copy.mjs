// Copies the vendored script, the fonts and their licences out of the npm packages.
import { createHash } from "node:crypto";
import { copyFileSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join, normalize } from "node:path";

const web = "../jointed_crane/web/static";
mkdirSync(`${web}/vendor`, { recursive: true });
mkdirSync(`${web}/fonts`, { recursive: true });
copyFileSync("node_modules/@alpinejs/csp/dist/module.esm.min.js", `${web}/vendor/alpine-csp.js`);
// The package of the script carries no licence text of its own; it lies beside this file.
copyFileSync("alpine-LICENSE.txt", `${web}/vendor/alpine-LICENSE.txt`);
copyFileSync("node_modules/tailwindcss/LICENSE", `${web}/vendor/tailwindcss-LICENSE.txt`);
for (const family of ["bricolage-grotesque", "hanken-grotesk"]) {
  const from = `node_modules/@fontsource-variable/${family}`;
  for (const subset of ["latin", "latin-ext"]) {
    copyFileSync(`${from}/files/${family}-${subset}-wght-normal.woff2`, `${web}/fonts/${family}-${subset}.woff2`);
  }
  copyFileSync(`${from}/LICENSE`, `${web}/fonts/${family}-LICENSE.txt`);
}

// What tests alone use, with what it is: they run it in their browser, without Node.
const tests = "../tests/vendor";
const told = {};

/** Copies files of a package, those that they import too, and says what they are. */
function take(name, from, files, into) {
  const { version, license } = JSON.parse(readFileSync(`node_modules/${name}/package.json`));
  const taken = new Set(files);
  for (const file of taken) {
    const text = readFileSync(`node_modules/${name}/${from}/${file}`, "utf8");
    for (const [, path] of text.matchAll(/^(?:import|export)\b[^;"']*?["'](\.[^"']+)["']/gm)) taken.add(normalize(join(dirname(file), path)));
  }
  for (const file of taken) {
    const target = `${tests}/${into}/${file}`;
    mkdirSync(dirname(target), { recursive: true });
    copyFileSync(`node_modules/${name}/${from}/${file}`, target);
    const sha256 = createHash("sha256").update(readFileSync(target)).digest("hex");
    told[join(into, file)] = { package: name, version, license, sha256 };
  }
}

rmSync(tests, { recursive: true, force: true });
take("lottie-web", "build/player", ["lottie_light.min.js"], "lottie-web");
copyFileSync("node_modules/lottie-web/LICENSE.md", `${tests}/lottie-web/LICENSE.md`);
take("three", "src", ["cameras/PerspectiveCamera.js", "cameras/OrthographicCamera.js"], "three");
copyFileSync("node_modules/three/LICENSE", `${tests}/three/LICENSE`);
writeFileSync(`${tests}/packages.json`, `${JSON.stringify(told, null, 2)}\n`);
