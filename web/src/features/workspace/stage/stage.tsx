import { Box, Flex, Text } from "@chakra-ui/react";
import {
  useEffect,
  useEffectEvent,
  useImperativeHandle,
  useLayoutEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
} from "react";
import { flushSync } from "react-dom";
import type { Clip, Model, Point, Reading, Report, Track } from "../../../api/client";
import { posterURL } from "../../../api/media";
import { Bones, Joint, Labels, Measured, Over } from "./drawn";
import { Frames } from "./frames";
import { Player, usePlayer } from "./player";
import { at as pointOf } from "../work/tracks";
import type { Ask, Overlay, Place, Spot, Tool } from "./tools";
import { fit, part, toPicture, zoomed, type View } from "./view";
import { onPicture } from "../../../ui/color";
import { useOnline } from "../../../ui/online";
import { t } from "../../../texts/texts";
import { show } from "../../../ui/numbers";

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
  /** what is in sight, for who records the stage */
  inSight?: RefObject<(() => [number, number, number, number]) | null>;
};

/** looking is a stage that only shows: it asks for nothing and takes nothing. */
export const looking = {
  lit: null,
  asked: null,
  hidden: false,
  selected: null,
  onSelect: () => {},
  onPlace: () => {},
  tool: null,
} satisfies Partial<Props>;

/** noClip is the id of a clip without pictures: the simulated reference. */
export const noClip = "00000000-0000-0000-0000-000000000000";

const handle = 7;
/** finger is how far from a joint a finger takes hold of it, px. */
const finger = 24;
/** stride is how far a finger goes for a frame, px. */
const stride = 9;
/** unannounced is how long a picture may take before the stage says that it waits, ms. */
const unannounced = 50;

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
  const [look, setLook] = useState<View | null>(null);
  const [hover, setHover] = useState<Spot | null>(null);
  const shown = useRef<{ n: number; b: ImageBitmap } | null>(null);
  const [late, setLate] = useState<number | null>(null); // the frame that is waited for
  const refused = usePlayer(player, (s) => s.refused);
  const online = useOnline();
  const drag = useRef<{
    kind: "pan" | "point" | "line" | "box" | "limb" | "maybe" | "swipe";
    from: Spot;
    look: View;
    id?: string;
    a?: Spot;
    moved: boolean;
    frame?: number; // where a swipe began
  } | null>(null);
  const fingers = useRef(new Map<number, Spot>()); // on the stage, px of it
  const pinch = useRef<{ apart: number; middle: Spot; look: View } | null>(null);
  const [held, setHeld] = useState<"point" | "line" | "box" | "limb" | null>(null); // of what is drawn
  const [line, setLine] = useState<[Spot, Spot] | null>(null);
  const picture = { w: clip.width, h: clip.height };
  const whole = fit(size, picture);
  const view = look ?? whole;
  useImperativeHandle(p.inSight, () => () => part(view, size, picture));

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
    g.fillStyle = onPicture.pit;
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
    let left = false;
    const put = (b: ImageBitmap) => {
      if (left) return;
      clearTimeout(waiting);
      setLate(null);
      shown.current = { n: frame, b };
      player.drawn = frame;
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
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const have = frames.now(frame);
    if (have) put(have);
    else {
      // A picture that comes at once need not be announced.
      waiting = setTimeout(() => setLate(frame), unannounced);
      frames.get(frame).then(put, (e: Error) => left || setTrouble(e.message)); // a clip that was left says nothing
    }
    return () => {
      left = true;
      clearTimeout(waiting);
    };
  }, [frames, frame, player]);
  // What was refused says so at once.
  useEffect(() => {
    if (refused && player.drawn !== player.get().frame) setLate(player.get().frame);
  }, [refused, player]);
  const veiled = late !== null && late === frame;

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

  const zoom = (by: number, x: number, y: number) => setLook(zoomed(view, whole, by, x, y));

  const spot = (e: PointerEvent): Spot => {
    const r = box.current!.getBoundingClientRect();
    return toPicture(view, e.clientX - r.left, e.clientY - r.top);
  };
  const inside = ([x, y]: Spot) => x >= 0 && y >= 0 && x <= clip.width && y <= clip.height;
  const here = Object.entries(p.points).flatMap(([id, t]) => {
    const q = pointOf(t, frame);
    return q ? [{ id, at: q }] : [];
  });
  const nearest = (at: Spot) =>
    here
      .map((q) => ({ id: q.id, d: Math.hypot(q.at.x - at[0], q.at.y - at[1]) * view.k }))
      .sort((a, b) => a.d - b.d)
      .at(0);
  const round = (v: number) => Math.round(v * 10) / 10;
  const pointAt = (at: Spot, old?: Point): Point => ({
    x: round(at[0]),
    y: round(at[1]),
    source: "hand",
    confidence: 1,
    hidden: old?.hidden ?? p.hidden,
  });

  const onStage = (e: PointerEvent): Spot => {
    const r = box.current!.getBoundingClientRect();
    return [e.clientX - r.left, e.clientY - r.top];
  };
  /** two fingers: how far apart, and the middle between them */
  const between = (): [number, Spot] => {
    const [a, b] = [...fingers.current.values()];
    return [Math.max(1, Math.hypot(a[0] - b[0], a[1] - b[1])), [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]];
  };
  const lift = (e: PointerEvent) => {
    fingers.current.delete(e.pointerId);
    if (!pinch.current) return false;
    // Until both are up the one that stays means nothing.
    if (fingers.current.size === 0) pinch.current = null;
    return true;
  };

  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button > 1) return;
    if (e.pointerType === "touch") {
      const busy = drag.current?.moved && drag.current.kind !== "maybe" && drag.current.kind !== "pan";
      if (busy || fingers.current.size > 1) return; // a hand that moves something is not disturbed
      fingers.current.set(e.pointerId, onStage(e));
      if (fingers.current.size === 2) {
        const [apart, middle] = between();
        pinch.current = { apart, middle, look: view };
        drag.current = null;
        setHeld(null);
        return;
      }
    }
    // Nothing is put into a picture that is not there.
    if (e.button === 0 && (p.tool || p.asked) && !player.sees()) return;
    box.current!.setPointerCapture(e.pointerId);
    setHeld(null);
    const at = spot(e);
    const near = nearest(at);
    const reach = e.pointerType === "touch" ? finger : handle + 4;
    const grab = player.drawn === frame && near && near.d < reach && (!p.asked || near.id === p.asked.landmark);
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
    const { kind } = drag.current;
    if (kind !== "pan" && kind !== "maybe" && kind !== "swipe") setHeld(kind);
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    if (fingers.current.has(e.pointerId)) fingers.current.set(e.pointerId, onStage(e));
    const two = pinch.current;
    if (two) {
      if (fingers.current.size < 2) return;
      const [apart, [x, y]] = between();
      const v = zoomed(two.look, whole, apart / two.apart, two.middle[0], two.middle[1]);
      setLook(v && { k: v.k, x: v.x + x - two.middle[0], y: v.y + y - two.middle[1] });
      return;
    }
    const at = spot(e);
    setHover(at);
    const d = drag.current;
    if (!d) return;
    const dx = e.clientX - d.from[0];
    const dy = e.clientY - d.from[1];
    if (Math.hypot(dx, dy) > 4) d.moved = true;
    if (!d.moved) return;
    // A finger across a picture that is seen whole turns through the frames.
    if (d.kind === "maybe" && e.pointerType === "touch" && !look) {
      d.kind = "swipe";
      d.frame = frame;
      player.pause();
    }
    if (d.kind === "swipe") return player.jump(d.frame! + Math.round(dx / stride));
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
    if (lift(e)) return;
    const d = drag.current;
    drag.current = null;
    setHeld(null);
    if (!d) return;
    const at = spot(e);
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
    if (d.kind === "maybe") press(at);
  };
  /** press is what a press on a spot means: of a pointer, or of Enter under the crosshair. */
  const press = (at: Spot) => {
    if (p.tool) {
      const near = nearest(at);
      if (p.tool.kind === "spot" && inside(at)) p.tool.done(round(at[0]), round(at[1]));
      if (p.tool.kind === "joint" && near && near.d < 2.5 * handle) p.tool.done(near.id);
    } else if (p.asked && p.asked.frame === frame && inside(at))
      p.onPlace({ landmark: p.asked.landmark, frame, point: pointAt(at) }, true);
    else p.onSelect(null);
  };

  // By keyboard: with the focus on the stage the arrows move a crosshair while something is to be
  // placed, and Enter presses where it stands; a line and a box take two of them.
  const [cross, setCross] = useState<{ at: Spot; from: Spot | null } | null>(null);
  const placing = p.tool !== null || p.asked?.frame === frame;
  if (cross && !placing) setCross(null);
  const onKey = (e: KeyboardEvent<HTMLDivElement>) => {
    const way = ({ ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] } as const)[e.key];
    if (!placing || e.target !== e.currentTarget || (!way && e.key !== "Enter")) return;
    e.preventDefault();
    e.stopPropagation();
    const middle = toPicture(view, size.w / 2, size.h / 2);
    const now = cross ?? { at: [round(middle[0]), round(middle[1])] as Spot, from: null };
    if (way) {
      const far = (e.shiftKey ? 1 : 12) / view.k;
      const keep = (v: number, most: number) => Math.max(0, Math.min(most, v));
      const at: Spot = [keep(now.at[0] + way[0] * far, clip.width), keep(now.at[1] + way[1] * far, clip.height)];
      setCross({ ...now, at });
      setHover(at);
      if (now.from) setLine([now.from, at]);
      return;
    }
    if (!player.sees()) return;
    const { at, from } = now;
    if (p.tool?.kind === "line" || p.tool?.kind === "box") {
      if (!from) return setCross({ at, from: at });
      setLine(null);
      setCross({ at, from: null });
      if (p.tool.kind === "line") p.tool.done(from, at);
      else
        p.tool.done(
          Math.min(from[0], at[0]),
          Math.min(from[1], at[1]),
          Math.abs(at[0] - from[0]),
          Math.abs(at[1] - from[1]),
        );
    } else if (p.tool?.kind === "limb") {
      const joint = nearest(from ?? at);
      if (!from) return setCross({ at, from: at });
      setCross({ at, from: null });
      setLine(null);
      if (joint) p.tool.done(joint.id, round(at[0]), round(at[1]));
    } else {
      setCross({ at, from: null });
      press(at);
    }
  };

  // The magnifier: four times the picture around the pointer while placing.
  const magnify =
    (p.asked?.frame === frame || held === "point" || p.tool?.kind === "spot") && hover !== null && inside(hover);
  useLayoutEffect(() => {
    const g = loupe.current?.getContext("2d");
    if (!g || !magnify || !shown.current || !hover) return;
    const k = Math.max(4, view.k * 2);
    const s = shown.current.b;
    g.setTransform(1, 0, 0, 1, 0, 0);
    g.fillStyle = onPicture.pit;
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
    (r) => !r.clip && r.evidence && r.evidence.frame === frame && r.evidence.lines.length && r.value,
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
      tabIndex={0}
      role="group"
      aria-label={t("Picture, frame {frame} of {last}", { frame, last: player.last })}
      aria-description={
        placing ? t("Arrows move the crosshair, with Shift by one pixel; Enter places.") : inWords(lines, p.model)
      }
      onKeyDown={onKey}
      data-testid="stage"
      data-look={`${view.k} ${view.x} ${view.y}`}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={(e) => {
        lift(e);
        drag.current = null;
        setHeld(null);
        setLine(null);
      }}
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
          alt={t("first frame")}
          style={{
            position: "absolute",
            left: whole.x,
            top: whole.y,
            width: whole.k * clip.width,
            height: whole.k * clip.height,
          }}
        />
      )}
      <svg
        width={size.w}
        height={size.h}
        style={{ position: "absolute", inset: 0, pointerEvents: "none", opacity: veiled ? 0 : 1 }}
      >
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
        {line && held === "box" && (
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
        {line && held !== "box" && (
          <path
            d={`M${sx(line[0][0])} ${sy(line[0][1])}L${sx(line[1][0])} ${sy(line[1][1])}`}
            stroke="var(--chakra-colors-amber)"
            strokeWidth={2}
          />
        )}
        <Labels lines={lines} model={p.model} lit={focus} sx={sx} sy={sy} w={size.w} h={size.h} />
      </svg>
      {cross && (
        <svg
          width={size.w}
          height={size.h}
          style={{ position: "absolute", inset: 0, pointerEvents: "none" }}
          data-testid="crosshair"
        >
          <path
            d={`M${sx(cross.at[0]) - 16} ${sy(cross.at[1])}h12m8 0h12M${sx(cross.at[0])} ${sy(cross.at[1]) - 16}v12m0 8v12`}
            stroke={onPicture.amber}
            strokeWidth={2}
          />
        </svg>
      )}
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
            <path d="M66 40v20M66 72v20M40 66h20M72 66h20" stroke={onPicture.line} strokeWidth={1.2} />
            <circle cx={66} cy={66} r={1.3} fill={onPicture.clay} />
          </svg>
        </Box>
      )}
      {veiled && (
        <Flex
          position="absolute"
          inset="0"
          align="center"
          justify="center"
          bg="pit/80"
          pointerEvents="none"
          role="status"
          data-testid="veil"
        >
          <Text bg="panel" px="14px" py="8px" borderRadius="full">
            {online
              ? t("Frame {frame} is loading …", { frame })
              : t("No connection: frame {frame} is shown as soon as it is back", { frame })}
          </Text>
        </Flex>
      )}
      {(trouble || clip.state !== "ready") && (
        <Flex position="absolute" inset="auto 0 16px 0" justify="center" pointerEvents="none">
          <Text bg="panel" px="12px" py="6px" borderRadius="full">
            {trouble ||
              (clip.state === "failed"
                ? clip.problem
                : clip.state === "cancelled"
                  ? t("Import cancelled")
                  : t("Preparing exact frames … {progress} %", { progress: Math.round(clip.progress * 100) }))}
          </Text>
        </Flex>
      )}
    </div>
  );
}

/** inWords says what is drawn over the picture. */
const inWords = (lines: Reading[], model: Model) =>
  lines
    .map((r) => {
      const cp = model.checkpoints.find((c) => c.id === r.id);
      const s = cp && r.value && show(r.value, cp.unit);
      return s ? `${cp.name} ${s.value} ${s.unit} ${s.half}` : "";
    })
    .filter(Boolean)
    .join("; ");
