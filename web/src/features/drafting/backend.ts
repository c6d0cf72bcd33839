import { ready as tfReady, setBackend } from "@tensorflow/tfjs-core";
import { setWasmPaths } from "@tensorflow/tfjs-backend-wasm";
import { t } from "../../texts/texts";

// What the models run on: WebAssembly, which every browser has. It ships with the
// application.

let starting: Promise<void> | undefined;

export function ready(): Promise<void> {
  starting ??= (async () => {
    if (typeof WebAssembly !== "object")
      throw new Error(
        t(
          "The pose model cannot run in this browser: WebAssembly is missing. Use a current browser, or place points by hand.",
        ),
      );
    setWasmPaths(`${__POSE__}/`);
    if (!(await setBackend("wasm")))
      throw new Error(t("The pose model cannot run in this browser. Use a current browser, or place points by hand."));
    await tfReady();
  })().catch((e) => {
    starting = undefined;
    throw e;
  });
  return starting;
}
