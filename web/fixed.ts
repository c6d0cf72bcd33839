import { createHash } from "node:crypto";
import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";
import type { Plugin } from "vite";

// The core and the pose models are large and rarely change: they are asked for at an address
// that names what is in them, so that a browser keeps them for good.

const hash = (folder: string) => {
  const sum = createHash("sha256");
  for (const name of readdirSync(`public/${folder}`).sort())
    sum.update(name).update(readFileSync(`public/${folder}/${name}`));
  return sum.digest("hex").slice(0, 12);
};

const folders = ["core", "pose"] as const;
export const hashes = Object.fromEntries(folders.map((f) => [f, hash(f)]));

/** addresses are where the application finds them. */
export const addresses = {
  __CORE__: JSON.stringify(`/core~${hashes.core}`),
  __POSE__: JSON.stringify(`/pose~${hashes.pose}`),
};

/** packed tells the server these names, and packs what packs well as small as it gets. */
export const packed = (): Plugin => ({
  name: "packed",
  closeBundle() {
    writeFileSync("dist/fixed.json", JSON.stringify(hashes));
    for (const name of readdirSync("dist", { recursive: true, encoding: "utf8" })) {
      if (!/\.(js|css|html|svg|json|wasm)$/.test(name)) continue;
      const raw = readFileSync(`dist/${name}`);
      const br = brotliCompressSync(raw, {
        params: { [constants.BROTLI_PARAM_QUALITY]: 11, [constants.BROTLI_PARAM_SIZE_HINT]: raw.length },
      });
      if (raw.length > 1024 && br.length < 0.9 * raw.length) writeFileSync(`dist/${name}.br`, br);
    }
  },
});
