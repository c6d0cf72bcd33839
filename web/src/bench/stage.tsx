import { Box, Flex, Text } from "@chakra-ui/react";
import { useEffect, useEffectEvent, useLayoutEffect, useRef, useState, type PointerEvent } from "react";
import { flushSync } from "react-dom";
import type { Clip, Drawing, Model, Point, Reading, Report, Track } from "../api/client";
import { posterURL } from "../api/queries";
import { show, verdictColour } from "../ui/numbers";
import { Frames } from "./frames";
import { Player, usePlayer } from "./player";
import { at as pointOf } from "./tracks";

export type Ask = { landmark: string; label: string; position: string; frame: number; nth: number; of: number };
export type Place = { landmark: string; frame: number; point: Point };

/** Tool is what the next press on the picture means. */
export type Tool =
  | { kind: "line"; says: string; done(a: [number, number], b: [number, number]): void }
  | { kind: "box"; says: string; done(x: number, y: number, w: number, h: number): void }
  | { kind: "spot"; says: string; done(x: number, y: number): void }
  | { kind: "joint"; says: string; done(id: string): void }
  | { kind: "limb"; says: string; done(id: string, x: number, y: number): void };

/** Overlay is something measured that is drawn over the picture of a frame. */
export type Overlay = {
  key: string;
  lines: [number, number][][];
  style: "still" | "now" | "ground" | "box";
  label?: string;
};

type Props = {
  clip: Clip;
  player: Player;
  points: Record<string, Track>;
  model: Model;
  report?: Report;
  lit: string | null; // reading whose lines stand out
  asked: Ask | null;
  hidden: boolean; // the next point is a guess behind the body
  selected: string | null;
  onSelect(landmark: string | null): void;
  onPlace(p: Place, final: boolean): void;
  tool: Tool | null;
  far: "left" | "right" | null; // the side away from the camera
  bones: boolean; // draw the skeleton
  overlays: (frame: number) => Overlay[];
};

/** noClip is the id of a clip without pictures: the simulated reference. */
export const noClip = "00000000-0000-0000-0000-000000000000";

type Look = { k: number; x: number; y: number }; // screen = k * picture + (x, y)

const handle = 7;

/** drawnNow is what the stage draws over a frame for the eye: what was shown and what
 * is measured there; of a lit reading that one alone. */
export function drawnNow(
  over: Overlay[],
  readings: Reading[],
  model: Model,
  frame: number,
  lit: string | null,
): Drawing[] {
  const here = readings.filter(
    (r) =>
      r.value &&
      r.evidence?.frame === frame &&
      r.evidence.lines.length &&
      (!lit || r.id === lit || !readings.some((x) => x.id === lit && x.evidence?.frame === frame)),
  );
  return [
    ...over.map((o): Drawing => ({ lines: o.lines, style: o.style === "box" ? "plain" : o.style, label: o.label })),
    ...here.map((r): Drawing => {
      const cp = model.checkpoints.find((c) => c.id === r.id)!;
      const s = show(r.value!, cp.unit);
      const at = r.evidence!.lines[0].at as [number, number][];
      return {
        lines: r.evidence!.lines.map((l) => l.at as [number, number][]),
        style: r.side === "left" || r.side === "right" ? r.side : "plain",
        label: `${s.value}${s.unit ? " " + s.unit : ""} ${s.half}`,
        at: at[Math.floor(at.length / 2)],
      };
    }),
  ];
}

/** Stage shows one exact frame, what is measured in it, and takes the hand. */
export function Stage(p: Props) {
  const { clip, player } = p;
  const frame = usePlayer(player, (s) => s.frame);
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const loupe = useRef<HTMLCanvasElement>(null);
  const [frames, setFrames] = useState<Frames | null>(null);
  const [trouble, setTrouble] = useState("");
  const [size, setSize] = useState({ w: 836, h: 470 });
  const [look, setLook] = useState<Look | null>(null);
  const [hover, setHover] = useState<[number, number] | null>(null);
  const shown = useRef<{ n: number; b: ImageBitmap } | null>(null);
  const drag = useRef<{
    kind: "pan" | "point" | "line" | "box" | "limb" | "maybe";
    from: [number, number];
    look: Look;
    id?: string;
    a?: [number, number];
    moved: boolean;
  } | null>(null);
  const [line, setLine] = useState<[[number, number], [number, number]] | null>(null);
  const fit: Look = (() => {
    const k = Math.min(size.w / clip.width, size.h / clip.height);
    return { k, x: (size.w - k * clip.width) / 2, y: (size.h - k * clip.height) / 2 };
  })();
  const view = look ?? fit;

  const openFrames = useEffectEvent(() => Frames.open(clip));
  useEffect(() => {
    let gone = false;
    let mine: Frames | null = null;
    setTrouble("");
    if (clip.state !== "ready" || clip.id === noClip) return;
    openFrames().then(
      (f) => {
        if (gone) return f.close();
        mine = f;
        setFrames(f);
      },
      (e: Error) => setTrouble(e.message),
    );
    return () => {
      gone = true;
      shown.current = null;
      mine?.close();
      setFrames(null);
    };
    // A clip's pictures never change once it is imported.
  }, [clip.id, clip.state]);

  // A new answer to the capture rate makes a new player for the same pictures.
  useEffect(() => {
    if (!frames) return;
    player.ready = (n) => frames.now(n) !== undefined;
    player.prepare = (l) => frames.ahead(l);
  }, [frames, player]);

  useLayoutEffect(() => {
    const el = box.current!;
    const see = new ResizeObserver(() => setSize({ w: el.clientWidth, h: el.clientHeight }));
    see.observe(el);
    return () => see.disconnect();
  }, []);

  const draw = () => {
    const c = canvas.current;
    const g = c?.getContext("2d", { alpha: false });
    if (!c || !g) return;
    const dpr = window.devicePixelRatio || 1;
    if (c.width !== Math.round(size.w * dpr) || c.height !== Math.round(size.h * dpr)) {
      c.width = Math.round(size.w * dpr);
      c.height = Math.round(size.h * dpr);
    }
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.fillStyle = "#0c1011";
    g.fillRect(0, 0, c.width, c.height);
    const s = shown.current;
    if (!s) return;
    g.setTransform(dpr * view.k, 0, 0, dpr * view.k, dpr * view.x, dpr * view.y);
    g.imageSmoothingEnabled = view.k < 3;
    // The proxy may be smaller than the picture; one factor maps the two.
    g.drawImage(s.b, 0, 0, s.b.width / clip.proxy_scale, s.b.height / clip.proxy_scale);
    c.dataset.frame = String(s.n);
  };

  const paint = useEffectEvent(draw);
  useLayoutEffect(() => {
    if (!frames) return;
    let late = false;
    const put = (b: ImageBitmap) => {
      if (late) return;
      shown.current = { n: frame, b };
      frames.pin(frame);
      paint();
      const s = player.get();
      if (!s.playing) {
        // Ahead in the direction of stepping, a few behind.
        const list: number[] = [];
        for (let i = 1; i <= 10; i++) list.push(frame + i * s.direction);
        for (let i = 1; i <= 4; i++) list.push(frame - i * s.direction);
        frames.ahead(list);
      }
    };
    const have = frames.now(frame);
    if (have) put(have);
    else frames.get(frame).then(put, (e: Error) => setTrouble(e.message));
    return () => {
      late = true;
    };
  }, [frames, frame, player]);

  // Only a new view draws anew; a point under the hand does not touch the picture.
  useLayoutEffect(() => paint(), [view.k, view.x, view.y, size.w, size.h]);

  useEffect(() => {
    const el = box.current!;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      if (e.ctrlKey || e.metaKey || e.altKey) {
        const r = el.getBoundingClientRect();
        zoom(Math.exp(-e.deltaY / 300), e.clientX - r.left, e.clientY - r.top);
      } else player.step(Math.sign(e.deltaY || e.deltaX));
    };
    el.addEventListener("wheel", wheel, { passive: false });
    return () => el.removeEventListener("wheel", wheel);
  });

  const zoom = (by: number, x: number, y: number) => {
    const k = Math.min(24, Math.max(fit.k, view.k * by));
    if (k <= fit.k * 1.001) return setLook(null);
    setLook({ k, x: x - ((x - view.x) / view.k) * k, y: y - ((y - view.y) / view.k) * k });
  };

  const picture = (e: PointerEvent): [number, number] => {
    const r = box.current!.getBoundingClientRect();
    return [(e.clientX - r.left - view.x) / view.k, (e.clientY - r.top - view.y) / view.k];
  };
  const inside = ([x, y]: [number, number]) => x >= 0 && y >= 0 && x <= clip.width && y <= clip.height;
  const here = Object.entries(p.points).flatMap(([id, t]) => {
    const q = pointOf(t, frame);
    return q ? [{ id, at: q }] : [];
  });
  const round = (v: number) => Math.round(v * 10) / 10;
  const pointAt = (at: [number, number], old?: Point): Point => ({
    x: round(at[0]),
    y: round(at[1]),
    source: "hand",
    confidence: 1,
    hidden: old?.hidden ?? p.hidden,
  });

  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button > 1) return;
    box.current!.setPointerCapture(e.pointerId);
    const at = picture(e);
    const near = here
      .map((q) => ({ id: q.id, d: Math.hypot(q.at.x - at[0], q.at.y - at[1]) * view.k }))
      .sort((a, b) => a.d - b.d)[0];
    const grab = near && near.d < handle + 4 && (!p.asked || near.id === p.asked.landmark);
    if (e.button === 1) drag.current = { kind: "pan", from: [e.clientX, e.clientY], look: view, moved: false };
    else if (p.tool?.kind === "line" || p.tool?.kind === "box")
      drag.current = { kind: p.tool.kind, from: [e.clientX, e.clientY], look: view, a: at, moved: false };
    else if (p.tool?.kind === "limb" && near && near.d < 2 * handle)
      drag.current = { kind: "limb", from: [e.clientX, e.clientY], look: view, id: near.id, a: at, moved: false };
    else if (p.tool) drag.current = { kind: "maybe", from: [e.clientX, e.clientY], look: view, moved: false };
    else if (grab) {
      p.onSelect(near.id);
      drag.current = { kind: "point", from: [e.clientX, e.clientY], look: view, id: near.id, moved: false };
    } else drag.current = { kind: "maybe", from: [e.clientX, e.clientY], look: view, moved: false };
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    const at = picture(e);
    setHover(at);
    const d = drag.current;
    if (!d) return;
    const dx = e.clientX - d.from[0];
    const dy = e.clientY - d.from[1];
    if (Math.hypot(dx, dy) > 4) d.moved = true;
    if (!d.moved) return;
    if (d.kind === "maybe") d.kind = "pan";
    if (d.kind === "pan") setLook({ k: d.look.k, x: d.look.x + dx, y: d.look.y + dy });
    if (d.kind === "line" || d.kind === "box" || d.kind === "limb") setLine([d.a!, at]);
    // At once: the number belongs under the hand, not behind the next repaint.
    if (d.kind === "point" && inside(at))
      flushSync(() =>
        p.onPlace({ landmark: d.id!, frame, point: pointAt(at, pointOf(p.points[d.id!], frame)) }, false),
      );
  };
  const up = (e: PointerEvent<HTMLDivElement>) => {
    const d = drag.current;
    drag.current = null;
    if (!d) return;
    const at = picture(e);
    if (d.kind === "line" && d.moved && p.tool?.kind === "line") p.tool.done(d.a!, at);
    if (d.kind === "limb" && d.moved && p.tool?.kind === "limb" && inside(at))
      p.tool.done(d.id!, round(at[0]), round(at[1]));
    if (d.kind === "box" && d.moved && p.tool?.kind === "box") {
      const clamp = (v: number, to: number) => Math.min(to, Math.max(0, v));
      const [x0, x1] = [clamp(Math.min(d.a![0], at[0]), clip.width), clamp(Math.max(d.a![0], at[0]), clip.width)];
      const [y0, y1] = [clamp(Math.min(d.a![1], at[1]), clip.height), clamp(Math.max(d.a![1], at[1]), clip.height)];
      p.tool.done(x0, y0, x1 - x0, y1 - y0);
    }
    setLine(null);
    if (d.kind === "point" && d.moved && inside(at))
      p.onPlace({ landmark: d.id!, frame, point: pointAt(at, pointOf(p.points[d.id!], frame)) }, true);
    if (d.kind === "maybe" && p.tool) {
      const near = here
        .map((q) => ({ id: q.id, d: Math.hypot(q.at.x - at[0], q.at.y - at[1]) * view.k }))
        .sort((a, b) => a.d - b.d)[0];
      if (p.tool.kind === "spot" && inside(at)) p.tool.done(round(at[0]), round(at[1]));
      if (p.tool.kind === "joint" && near && near.d < 2.5 * handle) p.tool.done(near.id);
    } else if (d.kind === "maybe") {
      if (p.asked && p.asked.frame === frame && inside(at))
        p.onPlace({ landmark: p.asked.landmark, frame, point: pointAt(at) }, true);
      else p.onSelect(null);
    }
  };

  // The magnifier: four times the picture around the pointer while placing.
  const magnify =
    (p.asked?.frame === frame || drag.current?.kind === "point" || p.tool?.kind === "spot") &&
    hover !== null &&
    inside(hover);
  useLayoutEffect(() => {
    const g = loupe.current?.getContext("2d");
    if (!g || !magnify || !shown.current || !hover) return;
    const k = Math.max(4, view.k * 2);
    const s = shown.current.b;
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.fillStyle = "#0c1011";
    g.fillRect(0, 0, 132, 132);
    g.imageSmoothingEnabled = true;
    g.setTransform(k, 0, 0, k, 66 - hover[0] * k, 66 - hover[1] * k);
    g.drawImage(s, 0, 0, s.width / clip.proxy_scale, s.height / clip.proxy_scale);
  });

  const sx = (x: number) => view.k * x + view.x;
  const sy = (y: number) => view.k * y + view.y;
  // A change between two positions has no line of its own to stand out.
  const focus = p.lit && p.model.checkpoints.find((c) => c.id === p.lit)?.measure.kind !== "change" ? p.lit : null;
  const lines = (p.report?.readings ?? []).filter(
    (r) => r.evidence && r.evidence.frame === frame && r.evidence.lines.length && r.value,
  );

  return (
    <div
      ref={box}
      style={{
        position: "relative",
        width: "100%",
        height: "100%",
        background: "var(--chakra-colors-pit)",
        overflow: "hidden",
        borderRadius: 6,
        touchAction: "none",
        cursor: p.tool || p.asked?.frame === frame ? "crosshair" : look ? "grab" : "default",
      }}
      data-testid="stage"
      data-look={`${view.k} ${view.x} ${view.y}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerLeave={() => !drag.current && setHover(null)}
      onDoubleClick={(e) => {
        const r = box.current!.getBoundingClientRect();
        if (p.asked) return;
        if (look) setLook(null);
        else zoom(3, e.clientX - r.left, e.clientY - r.top);
      }}
    >
      <canvas
        ref={canvas}
        data-testid="picture"
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
      />
      {!frames && clip.width > 0 && clip.id !== noClip && (
        <img
          src={posterURL(clip.id, clip.state)}
          alt="first frame"
          style={{
            position: "absolute",
            left: fit.x,
            top: fit.y,
            width: fit.k * clip.width,
            height: fit.k * clip.height,
          }}
        />
      )}
      <svg width={size.w} height={size.h} style={{ position: "absolute", inset: 0, pointerEvents: "none" }}>
        {p.overlays(frame).map((o) => (
          <Over key={o.key} o={o} sx={sx} sy={sy} />
        ))}
        {p.bones && <Bones here={here} far={p.far} sx={sx} sy={sy} />}
        {lines.map((r) => (
          <Measured key={r.id} r={r} sx={sx} sy={sy} strong={focus === r.id} dim={focus !== null && focus !== r.id} />
        ))}
        {here.map(({ id, at }) => (
          <Joint
            key={id}
            id={id}
            x={sx(at.x)}
            y={sy(at.y)}
            hidden={at.hidden}
            unsure={at.source !== "hand" && at.confidence < 0.35}
            byHand={at.source === "hand"}
            small={p.bones && at.source !== "hand"}
            on={p.selected === id}
          />
        ))}
        {line && drag.current?.kind === "box" && (
          <rect
            x={sx(Math.min(line[0][0], line[1][0]))}
            y={sy(Math.min(line[0][1], line[1][1]))}
            width={view.k * Math.abs(line[1][0] - line[0][0])}
            height={view.k * Math.abs(line[1][1] - line[0][1])}
            fill="none"
            stroke="var(--chakra-colors-amber)"
            strokeWidth={2}
          />
        )}
        {line && drag.current?.kind !== "box" && (
          <path
            d={`M${sx(line[0][0])} ${sy(line[0][1])}L${sx(line[1][0])} ${sy(line[1][1])}`}
            stroke="var(--chakra-colors-amber)"
            strokeWidth={2}
          />
        )}
        <Labels lines={lines} model={p.model} lit={focus} sx={sx} sy={sy} w={size.w} h={size.h} />
      </svg>
      {magnify && hover && (
        <Box
          position="absolute"
          left={`${sx(hover[0]) > size.w - 180 ? sx(hover[0]) - 160 : sx(hover[0]) + 28}px`}
          top={`${Math.max(44, sy(hover[1]) - 158)}px`}
          w="132px"
          h="132px"
          borderRadius="full"
          overflow="hidden"
          border="2px solid"
          borderColor="chalk"
          pointerEvents="none"
          boxShadow="0 4px 18px rgba(0,0,0,.5)"
        >
          <canvas ref={loupe} width={132} height={132} />
          <svg width={132} height={132} style={{ position: "absolute", inset: 0 }}>
            <path d="M66 40v20M66 72v20M40 66h20M72 66h20" stroke="#f1ece0" strokeWidth={1.2} />
            <circle cx={66} cy={66} r={1.3} fill="#d06a45" />
          </svg>
        </Box>
      )}
      {(trouble || clip.state !== "ready") && (
        <Flex position="absolute" inset="auto 0 16px 0" justify="center" pointerEvents="none">
          <Text bg="panel" px="12px" py="6px" borderRadius="full">
            {trouble ||
              (clip.state === "failed"
                ? clip.problem
                : clip.state === "cancelled"
                  ? "Import cancelled"
                  : `Preparing exact frames … ${Math.round(clip.progress * 100)} %`)}
          </Text>
        </Flex>
      )}
    </div>
  );
}

const isRight = (id: string) => id.startsWith("right");
const sideColour = (id: string) => `var(--chakra-colors-${isRight(id) ? "sky" : "clay"})`;

const bones = [
  ["shoulder", "elbow"],
  ["elbow", "wrist"],
  ["wrist", "hand"],
  ["shoulder", "hip"],
  ["hip", "knee"],
  ["knee", "ankle"],
  ["ankle", "heel"],
  ["heel", "toe"],
  ["ankle", "toe"],
] as const;
const across = ["shoulder", "hip"] as const;

/** Bones: the skeleton of what is placed. Left is clay and solid, right is sky and
 * dashed; the side away from the camera is fainter. */
function Bones({
  here,
  far,
  sx,
  sy,
}: {
  here: { id: string; at: Point }[];
  far: string | null;
  sx(n: number): number;
  sy(n: number): number;
}) {
  const by = new Map(here.map((h) => [h.id, h.at]));
  const path = (a?: Point, b?: Point) =>
    a && b ? `M${sx(a.x).toFixed(1)} ${sy(a.y).toFixed(1)}L${sx(b.x).toFixed(1)} ${sy(b.y).toFixed(1)}` : "";
  const limbs = (side: string) => bones.map(([a, b]) => path(by.get(`${side}_${a}`), by.get(`${side}_${b}`))).join("");
  const trunk = across.map((p) => path(by.get("left_" + p), by.get("right_" + p))).join("");
  const shaft = path(by.get("tail"), by.get("tip")) + path(by.get("grip"), by.get("ball"));
  return (
    <g fill="none" strokeLinecap="round" data-testid="bones">
      {(["left", "right"] as const).map((s) => {
        const d = limbs(s);
        if (!d) return null;
        return (
          <g key={s} opacity={s === far ? 0.55 : 1}>
            <path d={d} stroke="rgba(8,11,12,.55)" strokeWidth={s === far ? 3.6 : 4.6} />
            <path
              d={d}
              stroke={sideColour(s)}
              strokeWidth={s === far ? 1.6 : 2.4}
              strokeDasharray={s === "right" ? "6 4" : undefined}
            />
          </g>
        );
      })}
      {trunk && <path d={trunk} stroke="#f1ece0" strokeOpacity={0.7} strokeWidth={1.4} />}
      {shaft && <path d={shaft} stroke="var(--chakra-colors-amber)" strokeWidth={2} />}
    </g>
  );
}

/** Over: what the coach lets stand still (solid, chalk), and how it is now. */
function Over({ o, sx, sy }: { o: Overlay; sx(n: number): number; sy(n: number): number }) {
  const d = (line: [number, number][]) =>
    line.map((q, i) => `${i ? "L" : "M"}${sx(q[0]).toFixed(1)} ${sy(q[1]).toFixed(1)}`).join("");
  const look = {
    still: { stroke: "#f1ece0", strokeWidth: 1.8, strokeDasharray: undefined },
    now: { stroke: "var(--chakra-colors-amber)", strokeWidth: 2.2, strokeDasharray: "3 3" },
    ground: { stroke: "var(--chakra-colors-moss)", strokeWidth: 1.3, strokeDasharray: undefined },
    box: { stroke: "var(--chakra-colors-amber)", strokeWidth: 1.4, strokeDasharray: "8 5" },
  }[o.style];
  const anchor = o.lines[0]?.[0];
  return (
    <g data-overlay={o.key}>
      {o.lines.map((line, i) =>
        line.length === 1 ? (
          <g key={i} transform={`translate(${sx(line[0][0])} ${sy(line[0][1])})`}>
            <circle r={7} fill="none" stroke="rgba(8,11,12,.6)" strokeWidth={4} />
            <circle r={7} fill="none" stroke="#f1ece0" strokeWidth={1.8} />
            <path d="M-11 0h8M3 0h8M0 -11v8M0 3v8" stroke="#f1ece0" strokeWidth={1.4} />
          </g>
        ) : (
          <path key={i} d={d(line)} fill="none" {...look} />
        ),
      )}
      {o.label && anchor && (
        <g transform={`translate(${sx(anchor[0]) + 12} ${sy(anchor[1]) - 26})`}>
          <rect
            width={o.label.length * 6.4 + 18}
            height={19}
            rx={9.5}
            fill="rgba(12,16,17,.84)"
            stroke="#f1ece0"
            strokeOpacity={0.5}
          />
          <text x={9} y={13.5} style={{ fontSize: 11.5, fontWeight: 600 }} fill="#f1ece0">
            {o.label}
          </text>
        </g>
      )}
    </g>
  );
}

/** Joint: left is clay and round, right is sky and square; a guessed place is
 * hollow, an unsure one dotted, one set by hand has its middle filled. */
function Joint({
  id,
  x,
  y,
  hidden,
  unsure,
  byHand,
  small,
  on,
}: {
  id: string;
  x: number;
  y: number;
  hidden: boolean;
  unsure: boolean;
  byHand: boolean;
  small: boolean;
  on: boolean;
}) {
  const fill = hidden || unsure ? "rgba(12,16,17,.55)" : "#0c1011";
  const common = {
    fill,
    stroke: unsure ? "var(--chakra-colors-amber)" : sideColour(id),
    strokeWidth: on ? 3 : small ? 1.4 : 2,
    strokeDasharray: hidden || unsure ? "2 2" : undefined,
  };
  const r = small && !on ? 0.66 : 1;
  if (!id.startsWith("left") && !id.startsWith("right"))
    return (
      <g data-landmark={id}>
        {on && <circle cx={x} cy={y} r={12} fill="none" stroke="#f1ece0" strokeWidth={1} />}
        <path
          d={`M${x - 6} ${y}L${x} ${y - 6}L${x + 6} ${y}L${x} ${y + 6}Z`}
          fill={fill}
          stroke="var(--chakra-colors-amber)"
          strokeWidth={on ? 3 : 1.8}
        />
      </g>
    );
  return (
    <g data-landmark={id}>
      {on && <circle cx={x} cy={y} r={12} fill="none" stroke="#f1ece0" strokeWidth={1} />}
      {isRight(id) ? (
        <rect x={x - 4 * r} y={y - 4 * r} width={8 * r} height={8 * r} {...common} />
      ) : (
        <circle cx={x} cy={y} r={4.6 * r} {...common} />
      )}
      <circle cx={x} cy={y} r={byHand && small ? 2 : 0.9} fill="#f1ece0" />
    </g>
  );
}

/** Measured draws the lines of a reading: left solid, right dashed. */
function Measured({
  r,
  sx,
  sy,
  strong,
  dim,
}: {
  r: Reading;
  sx(n: number): number;
  sy(n: number): number;
  strong: boolean;
  dim: boolean;
}) {
  return r.evidence!.lines.map((c, i) => {
    const d = c.at.map((q, j) => `${j ? "L" : "M"}${sx(q[0])} ${sy(q[1])}`).join("");
    const mixed = c.landmarks.some((l) => l.startsWith("mid"));
    return (
      <g key={i} opacity={dim ? 0.25 : 1}>
        <path d={d} fill="none" stroke="rgba(8,11,12,.6)" strokeWidth={strong ? 6 : 4} />
        <path
          d={d}
          fill="none"
          stroke={mixed ? "#f1ece0" : sideColour(c.landmarks[0])}
          strokeWidth={strong ? 3.4 : 2}
          strokeDasharray={!mixed && isRight(c.landmarks[0]) ? "7 4" : undefined}
        />
      </g>
    );
  });
}

function Labels({
  lines,
  model,
  lit,
  sx,
  sy,
  w,
  h,
}: {
  lines: Reading[];
  model: Model;
  lit: string | null;
  sx(n: number): number;
  sy(n: number): number;
  w: number;
  h: number;
}) {
  const taken: { x: number; y: number; w: number }[] = [];
  return lines.map((r) => {
    const cp = model.checkpoints.find((c) => c.id === r.id)!;
    if (cp.measure.kind === "change") return null;
    const at = r.evidence!.lines[0].at;
    const v = at[Math.floor(at.length / 2)];
    const s = show(r.value!, cp.unit);
    const text = `${s.value}${s.unit ? " " + s.unit : ""}`;
    const width = text.length * 7.4 + s.half.length * 6 + 20;
    const x = Math.min(sx(v[0]) + 12, w - width - 4);
    let y = Math.min(Math.max(sy(v[1]) - 24, 4), h - 24);
    for (
      let tries = 0;
      tries < 12 && taken.some((t) => Math.abs(t.y - y) < 21 && x < t.x + t.w && t.x < x + width);
      tries++
    )
      y += 22;
    taken.push({ x, y, w: width });
    return (
      <g key={r.id} opacity={lit && lit !== r.id ? 0.35 : 1}>
        <rect
          x={x}
          y={y}
          width={width}
          height={20}
          rx={10}
          fill="rgba(12,16,17,.82)"
          stroke={`var(--chakra-colors-${verdictColour[r.verdict]})`}
          strokeOpacity={0.7}
        />
        <text x={x + 10} y={y + 14} style={{ fontSize: 13, fontWeight: 650 }} fill="#f1ece0">
          {text}
          <tspan style={{ fontSize: 10.5, fontWeight: 400 }} fill="#b9c0bf">
            {" " + s.half}
          </tspan>
        </text>
      </g>
    );
  });
}
