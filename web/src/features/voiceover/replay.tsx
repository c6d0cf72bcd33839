import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useEffectEvent, useMemo, useRef, useState, type ReactNode, type RefObject } from "react";
import type { Chapter, Clip, Drawing, Scene } from "../../api/client";
import { Frames } from "../workspace/stage/frames";
import { Notice } from "../../ui/parts";
import { onPicture } from "../../ui/color";
import { t } from "../../texts/texts";

// A talk shown again: the voice leads, and at each moment the stage is what it was.

type Shown = { clip: string; frame: number; view: number[]; over: Drawing[] };

const tone: Record<string, string> = {
  still: onPicture.amber,
  now: onPicture.moss,
  ground: onPicture.moss,
  left: onPicture.clay,
  right: onPicture.sky,
  plain: onPicture.line,
};

/** states are the full states of a chapter, one for each change. */
function states(scenes: Scene[]): (Shown & { t: number })[] {
  let now: Shown = { clip: "", frame: 0, view: [0, 0, 1, 1], over: [] };
  return scenes.map((s) => {
    now = { clip: s.clip ?? now.clip, frame: s.frame ?? now.frame, view: s.view ?? now.view, over: s.over ?? now.over };
    return { ...now, t: s.t };
  });
}

type Props = {
  chapters: Chapter[];
  clips: Clip[];
  voice(chapter: string): string;
  video(clip: string): string;
  children?(c: Chapter, audio: RefObject<HTMLAudioElement | null>): ReactNode;
};

/** Replay plays a talk; children are what a coach may do with the chapter at hand. */
export function Replay({ chapters, clips, voice, video, children }: Props) {
  const [n, setN] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [time, setTime] = useState(0);
  const wanted = useRef(0);
  const [trouble, setTrouble] = useState("");
  const audio = useRef<HTMLAudioElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const open = useRef(new Map<string, Promise<Frames>>());
  const drawn = useRef("");
  const chapter = chapters[Math.min(n, chapters.length - 1)];
  const list = useMemo(() => states(chapter?.scenes ?? []), [chapter]);
  const [shown, setShown] = useState<Shown>();
  useEffect(
    () => () => {
      for (const f of open.current.values()) void f.then((x) => x.close()).catch(() => {});
      open.current.clear();
    },
    [],
  );

  const frames = (id: string) => {
    const clip = clips.find((c) => c.id === id);
    if (!clip) return undefined;
    let f = open.current.get(id);
    if (!f) open.current.set(id, (f = Frames.open(clip, video(id))));
    return f.then((x) => ({ x, clip }));
  };
  const draw = (s: Shown) => {
    const want = `${s.clip} ${s.frame} ${s.view}`;
    if (drawn.current === want) return;
    drawn.current = want;
    void frames(s.clip)
      ?.then(async ({ x, clip }) => {
        const b = x.now(s.frame) ?? (await x.get(s.frame));
        const c = canvas.current;
        const g = c?.getContext("2d", { alpha: false });
        if (!c || !g || drawn.current !== want) return;
        const dpr = window.devicePixelRatio || 1;
        c.width = Math.round(c.clientWidth * dpr);
        c.height = Math.round(c.clientHeight * dpr);
        const [vx, vy, vw, vh] = s.view;
        const k = Math.min(c.width / vw, c.height / vh);
        g.fillStyle = onPicture.pit;
        g.fillRect(0, 0, c.width, c.height);
        g.setTransform(k, 0, 0, k, (c.width - k * vw) / 2 - k * vx, (c.height - k * vh) / 2 - k * vy);
        g.drawImage(b, 0, 0, b.width / clip.proxy_scale, b.height / clip.proxy_scale);
        c.dataset.frame = String(s.frame);
        x.ahead(Array.from({ length: 10 }, (_, i) => s.frame + 1 + i));
      })
      .catch((e: Error) => setTrouble(e.message));
  };
  const at = (time: number) => {
    let s: (typeof list)[number] | undefined = list[0];
    for (const x of list) if (x.t <= time) s = x;
    return s;
  };
  const show = (time: number) => {
    const s = at(time);
    setTime(time);
    if (!s) return;
    draw(s);
    setShown(s);
  };
  // The chapter's picture stands before anything is played.
  const arrange = useEffectEvent(() => {
    drawn.current = "";
    if (!chapter) return;
    const a = audio.current!;
    wanted.current = chapter.starts;
    const begin = () => {
      a.currentTime = wanted.current;
      if (playing) void a.play().catch((e: Error) => (setPlaying(false), setTrouble(e.message)));
    };
    a.src = voice(chapter.id);
    a.addEventListener("loadedmetadata", begin, { once: true });
    show(chapter.starts);
    return () => a.removeEventListener("loadedmetadata", begin);
  });
  useEffect(() => arrange(), [chapter?.id, chapter?.seconds]);
  // follow shows what belongs to the voice; it tells whether there is more to come.
  const follow = useEffectEvent(() => {
    const a = audio.current!;
    show(a.currentTime);
    if (!chapter || (a.currentTime < chapter.ends - 0.02 && !a.ended)) return !!chapter;
    if (n + 1 < chapters.length) setN(n + 1);
    else {
      a.pause();
      setPlaying(false);
    }
    return false;
  });
  const talks = !!chapter;
  useEffect(() => {
    if (!playing || !talks) return;
    let raf = 0;
    const tick = () => {
      if (follow()) raf = requestAnimationFrame(tick);
    };
    raf = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(raf);
  }, [playing, talks, chapter?.id, chapters.length]);
  const [wide, setWide] = useState(860);
  const again = useEffectEvent(() => {
    if (!shown) return; // what is being drawn first takes the size as it finds it
    drawn.current = "";
    draw(shown);
  });
  useEffect(() => {
    const el = box.current!;
    const see = new ResizeObserver(() => {
      setWide(el.clientWidth);
      again();
    });
    see.observe(el);
    return () => see.disconnect();
  }, []);

  const toggle = () => {
    const a = audio.current!;
    setTrouble("");
    if (playing) {
      a.pause();
      return setPlaying(false);
    }
    if (a.currentTime >= chapter.ends - 0.05 || a.currentTime < chapter.starts) a.currentTime = chapter.starts;
    void a.play().then(
      () => setPlaying(true),
      (e: Error) => setTrouble(t("The voice cannot be played: {message}", { message: e.message })),
    );
  };
  const seek = (time: number) => {
    const a = audio.current!;
    // A voice that is not loaded yet begins there, too.
    wanted.current = time;
    a.currentTime = time;
    show(time);
  };
  if (!chapter) return null;
  const clip = clips.find((c) => c.id === shown?.clip);
  const v = shown?.view ?? [0, 0, 16, 9];
  return (
    <Box data-testid="replay" data-chapter={n} data-playing={playing} data-frame={shown?.frame}>
      <Box
        ref={box}
        position="relative"
        w="100%"
        css={{ aspectRatio: "16 / 9" }}
        bg={onPicture.pit}
        borderRadius="6px"
        overflow="hidden"
        cursor="pointer"
        onClick={toggle}
      >
        <canvas ref={canvas} style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }} />
        <svg
          viewBox={v.join(" ")}
          preserveAspectRatio="xMidYMid meet"
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}
        >
          {shown?.over.map((d, i) => (
            <Over key={i} d={d} k={v[2] / wide} />
          ))}
        </svg>
        {!playing && (
          <Flex position="absolute" inset="0" align="center" justify="center" pointerEvents="none">
            <Box
              as="span"
              bg={onPicture.label}
              borderRadius="full"
              w="64px"
              h="64px"
              display="flex"
              alignItems="center"
              justifyContent="center"
            >
              <svg width="26" height="26" viewBox="0 0 26 26">
                <path d="M8 4L22 13L8 22Z" fill={onPicture.line} />
              </svg>
            </Box>
          </Flex>
        )}
        {!clip && shown && (
          <Text position="absolute" bottom="12px" left="12px" color={onPicture.line} fontSize="12px">
            {t("The clip that is spoken of is not there any more.")}
          </Text>
        )}
      </Box>
      <audio ref={audio} preload="auto" />
      <Flex align="center" gap="10px" mt="8px">
        <Button size="xs" variant="outline" w="64px" onClick={toggle} data-testid="replay-play">
          {playing ? t("Stop") : t("Play")}
        </Button>
        <input
          type="range"
          min={chapter.starts}
          max={chapter.ends}
          step={0.01}
          value={Math.min(chapter.ends, Math.max(chapter.starts, time))}
          aria-label={t("place in the chapter")}
          style={{ flex: 1 }}
          onChange={(e) => seek(Number(e.target.value))}
        />
        <Text fontSize="12px" w="84px" textAlign="right" fontVariantNumeric="tabular-nums">
          {t("{clock} of {clock2}", {
            clock: clock(time - chapter.starts),
            clock2: clock(chapter.ends - chapter.starts),
          })}
        </Text>
      </Flex>
      <Flex gap="6px" wrap="wrap" mt="8px">
        {chapters.map((c, i) => (
          <Button
            key={c.id}
            size="xs"
            variant="outline"
            bg={i === n ? "raised" : undefined}
            borderColor={i === n ? "clay" : "seam"}
            onClick={() => setN(i)}
            data-testid={`chapter-${i + 1}`}
          >
            {i + 1} {c.name}
          </Button>
        ))}
      </Flex>
      {trouble && (
        <Notice tone="clay" mt="8px">
          {trouble}
        </Notice>
      )}
      {// eslint-disable-next-line react-hooks/refs -- what cuts the chapter reads it in handlers only
      children?.(chapter, audio)}
    </Box>
  );
}

const clock = (s: number) =>
  `${Math.floor(Math.max(0, s) / 60)}:${String(Math.floor(Math.max(0, s) % 60)).padStart(2, "0")}`;

/** Over is one thing that was drawn; k is picture px for one px of the screen. */
function Over({ d, k }: { d: Drawing; k: number }) {
  const colour = tone[d.style] ?? tone.plain;
  const label = d.at ?? d.lines[0]?.[Math.floor((d.lines[0]?.length ?? 0) / 2)];
  return (
    <g>
      {d.lines.map((l, i) => (
        <g key={i}>
          <polyline
            points={l.map((q) => q.join(",")).join(" ")}
            fill="none"
            stroke={onPicture.outline}
            strokeWidth={4.6 * k}
            strokeLinecap="round"
          />
          <polyline
            points={l.map((q) => q.join(",")).join(" ")}
            fill="none"
            stroke={colour}
            strokeWidth={2.4 * k}
            strokeLinecap="round"
            strokeDasharray={d.style === "right" ? `${6 * k} ${4 * k}` : undefined}
          />
        </g>
      ))}
      {d.label && label && (
        <text
          x={label[0] + 9 * k}
          y={label[1] - 9 * k}
          fill={colour}
          stroke={onPicture.outline}
          strokeWidth={3.5 * k}
          style={{ fontSize: 15 * k, fontWeight: 650, paintOrder: "stroke" }}
        >
          {d.label}
        </text>
      )}
    </g>
  );
}
