import { Failure, type FollowRequest, type Word } from "./client";
import { t } from "../texts/texts";

// Looks through a clip that tell about themselves on the way: one JSON object a
// line.

async function stream(path: string, body: unknown, say: (w: Word) => void, signal: AbortSignal): Promise<Word> {
  let answer: Response;
  try {
    answer = await fetch("/api" + path, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
      signal,
    });
  } catch (e) {
    if (signal.aborted) throw e;
    throw new Failure(
      "offline",
      t("The server cannot be reached. What was found so far is kept; try again when the connection is back."),
    );
  }
  if (!answer.ok || !answer.body) {
    const p = (await answer.json().catch(() => ({}))) as { kind?: Failure["kind"]; detail?: string };
    throw new Failure(
      p.kind ?? "internal",
      p.detail ?? t("The server answered {status}. Try again.", { status: answer.status }),
    );
  }
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { done, value } = await reader.read();
    if (done) throw new Failure("offline", t("The connection broke off. What was found so far is kept; try again."));
    const lines = (rest + value).split("\n");
    rest = lines.pop()!;
    for (const l of lines) {
      if (!l) continue;
      const w = JSON.parse(l) as Word;
      if (w.error) throw new Failure(w.error.kind, w.error.detail);
      if (w.end) return w;
      say(w);
    }
  }
}

/** lookAtCamera finds how the camera of a clip turned. */
export const lookAtCamera = (clip: string, progress: (share: number) => void, signal: AbortSignal) =>
  stream(`/clips/${clip}/camera`, {}, (w) => progress((w.done ?? 0) / Math.max(1, w.of ?? 1)), signal);

/** follow follows a point. */
export const follow = (
  clip: string,
  ask: FollowRequest,
  found: (f: NonNullable<Word["found"]>) => void,
  signal: AbortSignal,
) => stream(`/clips/${clip}/follow`, ask, (w) => w.found && found(w.found), signal);

/** refine takes the trembling out of a draft by the flow of the picture. */
export const refine = (clip: string, progress: (share: number) => void, signal: AbortSignal) =>
  stream(`/clips/${clip}/refine`, {}, (w) => progress((w.done ?? 0) / Math.max(1, w.of ?? 1)), signal);
