import type { Clip } from "../../../api/client";
import { keep, kept } from "../../../api/keep";
import { frameURL, proxyURL } from "../../../api/media";
import { t } from "../../../texts/texts";

// Exact frames of one clip: frame n is the n-th picture of the proxy, asked for
// by its exact time stamp. Neighbours are decoded ahead and kept.

type Decode = (n: number) => Promise<ImageBitmap>;

export class Frames {
  private kept = new Map<number, ImageBitmap>();
  private waiting = new Map<number, Promise<ImageBitmap>>();
  private wanted: number[] = [];
  private busy = false;
  private closed = false;
  private pinned = -1;
  private leaving = new AbortController();
  private arrives?: Promise<void>; // all of the video; nothing when it is here, or never will be

  private constructor(
    readonly count: number,
    private decode: Decode,
    private keep: number,
    private end: () => void,
  ) {}

  /** open prefers WebCodecs; where it is missing the server hands out frames. */
  static async open(clip: Clip, video = proxyURL(clip.id)): Promise<Frames> {
    const count = clip.stamps.length;
    const room = Math.max(
      12,
      Math.min(90, Math.floor(220e6 / Math.max(1, clip.width * clip.height * clip.proxy_scale ** 2 * 4))),
    );
    if ("VideoDecoder" in globalThis) {
      try {
        const here = await kept(video);
        const { decode, end } = await codec(here ?? video, count);
        const f = new Frames(count, decode, room, end);
        if (!here) f.fetchAll(video);
        return f;
      } catch (e) {
        console.warn(t("WebCodecs cannot be used for this clip; frames come from the server."), e);
      }
    }
    return new Frames(
      count,
      (n) => fromServer(clip, n),
      room,
      () => {},
    );
  }

  /** fetchAll brings the whole video here; what is decoded from then on needs no connection. */
  private fetchAll(video: string) {
    this.arrives = keep(video, this.leaving.signal)
      .then((whole) => codec(whole, this.count))
      .then(({ decode, end }) => {
        if (this.closed) return end();
        this.end();
        this.decode = decode;
        this.end = end;
        this.arrives = undefined;
      });
    this.arrives.catch(() => {}); // it was left
  }

  /** picture decodes a frame: over the connection, or from all of the video once that is here,
   * whichever is sooner. */
  private async picture(n: number): Promise<ImageBitmap> {
    if (!this.arrives) return this.decode(n);
    const all = this.arrives.then(() => undefined);
    const over = this.decode(n);
    const first = await Promise.race([over.catch(() => all), all]);
    if (first) return first;
    over.then(
      (late) => late.close(),
      () => {},
    );
    return this.decode(n);
  }

  /** now gives a frame that is decoded already. */
  now(n: number): ImageBitmap | undefined {
    return this.kept.get(n);
  }

  /** get decodes a frame, before anything that was only wanted ahead. */
  async get(n: number): Promise<ImageBitmap> {
    const have = this.kept.get(n);
    if (have) return have;
    let p = this.waiting.get(n);
    if (!p) {
      p = this.picture(n).then((b) => this.put(n, b));
      this.waiting.set(n, p);
      p.finally(() => this.waiting.delete(n)).catch(() => {});
    }
    return p;
  }

  /** pin keeps the frame that is on the stage. */
  pin(n: number) {
    this.pinned = n;
  }

  /** ahead decodes a list of frames in the background, one after the other. */
  ahead(list: number[]) {
    this.wanted = list.filter((n) => n >= 0 && n < this.count && !this.kept.has(n));
    if (!this.busy) void this.work();
  }

  private async work() {
    this.busy = true;
    while (this.wanted.length && !this.closed) {
      try {
        await this.get(this.wanted.shift()!);
      } catch {
        break; // the frame that is really asked for tells what is wrong
      }
    }
    this.busy = false;
  }

  private put(n: number, b: ImageBitmap) {
    if (this.closed) {
      b.close();
      return b;
    }
    this.kept.delete(n);
    this.kept.set(n, b);
    // The oldest go first; a bitmap is memory of the graphics card.
    for (const [k, old] of this.kept) {
      if (this.kept.size <= this.keep) break;
      if (k === this.pinned || k === n) continue;
      this.kept.delete(k);
      old.close();
    }
    return b;
  }

  close() {
    this.closed = true;
    this.leaving.abort();
    this.end();
    for (const b of this.kept.values()) b.close();
    this.kept.clear();
  }
}

async function fromServer(clip: Clip, n: number): Promise<ImageBitmap> {
  const r = await fetch(frameURL(clip.id, n));
  if (!r.ok) throw new Error(t("This frame could not be fetched. Check the connection; the Bench goes on by itself."));
  return createImageBitmap(await r.blob());
}

/** openVideo opens a proxy for exact frames as decoded samples. */
export async function openVideo(video: string | Blob, count: number) {
  const { ALL_FORMATS, BlobSource, EncodedPacketSink, Input, UrlSource, VideoSampleSink } = await import("mediabunny");
  const source = typeof video === "string" ? new UrlSource(video) : new BlobSource(video);
  const input = new Input({ formats: ALL_FORMATS, source });
  const track = await input.getPrimaryVideoTrack();
  if (!track || !(await track.canDecode())) throw new Error(t("no decoder for this proxy"));
  const stamps: number[] = [];
  for await (const p of new EncodedPacketSink(track).packets(undefined, undefined, { metadataOnly: true }))
    stamps.push(p.timestamp);
  stamps.sort((a, b) => a - b);
  if (stamps.length !== count)
    throw new Error(t("the proxy has {count} frames, the table {count2}", { count: stamps.length, count2: count }));
  const sink = new VideoSampleSink(track);
  const sample = async (n: number) => {
    const s = await sink.getSample(stamps[n]);
    if (!s) throw new Error(t("frame {n} cannot be decoded", { n }));
    return s;
  };
  return { sample, end: () => input.dispose() };
}

async function codec(video: string | Blob, count: number) {
  const { sample, end } = await openVideo(video, count);
  const decode: Decode = async (n) => {
    const s = await sample(n);
    const frame = s.toVideoFrame();
    try {
      return await createImageBitmap(frame);
    } finally {
      frame.close();
      s.close();
    }
  };
  return { decode, end };
}
