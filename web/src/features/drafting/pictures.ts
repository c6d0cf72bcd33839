import type { Clip } from "../../api/client";
import { proxyURL } from "../../api/media";
import { Frames, openVideo } from "../workspace/stage/frames";
import { t } from "../../texts/texts";

/** Picture is a frame as its decoder has it: nothing is scaled and no colour is turned
 * before the core cuts out what the networks see. */
export type Picture = { format: "I420" | "NV12" | "RGBA"; width: number; height: number; bytes: Uint8Array };

export type Pictures = { get(frame: number): Promise<Picture>; close(): void };

/** pictures opens the frames of a clip. */
export async function pictures(clip: Clip): Promise<Pictures> {
  if ("VideoDecoder" in globalThis) {
    try {
      const video = await openVideo(proxyURL(clip.id), clip.stamps.length);
      return {
        close: video.end,
        get: async (n) => {
          const sample = await video.sample(n);
          const frame = sample.toVideoFrame();
          try {
            const { width, height } = frame.visibleRect!;
            const known = frame.format === "I420" || frame.format === "NV12";
            const options = known ? undefined : { format: "RGBA" as const };
            const bytes = new Uint8Array(frame.allocationSize(options));
            await frame.copyTo(bytes, options);
            return { format: known ? (frame.format as "I420" | "NV12") : "RGBA", width, height, bytes };
          } finally {
            frame.close();
            sample.close();
          }
        },
      };
    } catch (e) {
      console.warn(t("WebCodecs cannot be used for this clip; frames come from the server."), e);
    }
  }
  const frames = await Frames.open(clip);
  return {
    close: () => frames.close(),
    get: async (n) => {
      const bitmap = await frames.get(n);
      const { width, height } = bitmap;
      const pen = new OffscreenCanvas(width, height).getContext("2d", { willReadFrequently: true })!;
      pen.drawImage(bitmap, 0, 0);
      const { data } = pen.getImageData(0, 0, width, height);
      return { format: "RGBA", width, height, bytes: new Uint8Array(data.buffer) };
    },
  };
}
