// Copies the vendored script, the fonts and their licences out of the npm packages.
import { createHash } from "node:crypto";
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";

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
mkdirSync(tests, { recursive: true });
const player = "node_modules/lottie-web";
copyFileSync(`${player}/build/player/lottie_light.min.js`, `${tests}/lottie_light.js`);
copyFileSync(`${player}/LICENSE.md`, `${tests}/lottie-LICENSE.md`);
const { name, version, license } = JSON.parse(readFileSync(`${player}/package.json`));
const sha256 = createHash("sha256").update(readFileSync(`${tests}/lottie_light.js`)).digest("hex");
const told = { "lottie_light.js": { package: name, version, license, sha256 } };
writeFileSync(`${tests}/packages.json`, `${JSON.stringify(told, null, 2)}\n`);
