import { Box } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import type { DrillFigure } from "../../api/client";
import { t } from "../../texts/texts";
import { useFigure } from "./api";

/** limbs are lines from landmark to landmark of a side, with how thick they are, m. */
const limbs: [string, string, number][] = [
  ["hip", "knee", 0.13],
  ["knee", "ankle", 0.1],
  ["heel", "toe", 0.07],
  ["shoulder", "elbow", 0.085],
  ["elbow", "wrist", 0.07],
  ["wrist", "hand", 0.06],
];

/** Moving is a drill's figure; it moves while it is seen, and stands for who wants less motion. */
export function Moving({ id, name, big }: { id: string; name: string; big?: boolean }) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [seen, setSeen] = useState(false);
  const [near, setNear] = useState(false);
  useEffect(() => {
    const on = new IntersectionObserver(
      (list) => {
        const now = list.some((e) => e.isIntersecting);
        setSeen(now);
        if (now) setNear(true);
      },
      { rootMargin: "120px" },
    );
    on.observe(frame.current!);
    return () => on.disconnect();
  }, []);
  const figure = useFigure(id, near);
  const f = figure.data;
  useEffect(() => {
    const c = canvas.current;
    if (!f || !c || !seen) return;
    const colours = getComputedStyle(c);
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    let handle = 0;
    const began = performance.now();
    const tick = (now: number) => {
      const rest = 12; // pictures that the last one stands
      const n = still ? Math.floor(f.frames / 2) : Math.floor(((now - began) / 1000) * f.rate) % (f.frames + rest);
      draw(c, f, Math.min(n, f.frames - 1), colours);
      c.dataset.frame = String(n);
      if (!still) handle = requestAnimationFrame(tick);
    };
    handle = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(handle);
  }, [f, seen]);
  return (
    <Box ref={frame} bg="ground" borderRadius="8px" overflow="hidden" style={{ aspectRatio: big ? "16 / 9" : "4 / 3" }}>
      <canvas
        ref={canvas}
        width={big ? 960 : 480}
        height={big ? 540 : 360}
        role="img"
        aria-label={t("moving figure of “{name}”", { name })}
        style={{
          width: "100%",
          height: "100%",
          display: "block",
          color: "var(--chakra-colors-chalk)",
          caretColor: "var(--chakra-colors-clay)",
          outlineColor: "var(--chakra-colors-quiet)",
          borderColor: "var(--chakra-colors-seam)",
        }}
      />
    </Box>
  );
}

/** draw puts one picture of a figure on a canvas. */
function draw(c: HTMLCanvasElement, f: DrillFigure, n: number, colours: CSSStyleDeclaration) {
  const to = c.getContext("2d")!;
  const [w, h] = [c.width, c.height];
  const ink = { near: colours.color, far: colours.outlineColor, held: colours.caretColor, ground: colours.borderColor };
  const scale = Math.min(
    (0.86 * w) / (f.high[0] - f.low[0] + 0.3),
    (0.8 * h) / (f.high[1] - Math.min(0, f.low[1]) + 0.2),
  );
  const x = (v: number) => w / 2 + scale * (v - (f.low[0] + f.high[0]) / 2);
  const y = (v: number) => 0.92 * h - scale * (v - Math.min(0, f.low[1]));
  const at = (id: string): [number, number] => [x(f.points[id][2 * n]), y(f.points[id][2 * n + 1])];
  to.clearRect(0, 0, w, h);
  to.lineCap = "round";
  to.lineJoin = "round";
  const line = (colour: string, width: number, ...points: [number, number][]) => {
    to.strokeStyle = colour;
    to.lineWidth = Math.max(2, width);
    to.beginPath();
    points.forEach((p, i) => (i ? to.lineTo(...p) : to.moveTo(...p)));
    to.stroke();
  };
  line(ink.ground, 2, [0, y(0)], [w, y(0)]);
  for (const g of f.things) {
    to.fillStyle = to.strokeStyle = ink.held;
    const [gx, gy, gw, gh] = [x(g.x - g.w / 2), y(g.y + g.h), Math.max(3, scale * g.w), Math.max(3, scale * g.h)];
    if (g.kind === "rope" && g.w > 1)
      line(ink.held, 3, [gx, y(g.y)], [gx + gw, y(g.y + g.h)]); // slanted
    else if (g.kind === "cone") {
      to.beginPath();
      to.moveTo(gx, gy + gh);
      to.lineTo(gx + gw / 2, gy);
      to.lineTo(gx + gw, gy + gh);
      to.fill();
    } else if (g.kind === "box" || g.kind === "mat" || g.kind === "wall") {
      to.fillStyle = ink.ground;
      to.fillRect(gx, gy, gw, gh);
    } else to.fillRect(gx, gy, gw, gh);
  }
  const sides = f.near === "left" ? ["right", "left"] : ["left", "right"];
  const trunk = () => {
    const mid = (part: string): [number, number] => {
      const [a, b] = [at(`left_${part}`), at(`right_${part}`)];
      return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    };
    to.fillStyle = to.strokeStyle = ink.near;
    to.lineWidth = scale * 0.1;
    to.beginPath();
    const ring = [at("left_shoulder"), at("right_shoulder"), at("right_hip"), at("left_hip")];
    ring.forEach((p, i) => (i ? to.lineTo(...p) : to.moveTo(...p)));
    to.closePath();
    to.fill();
    to.stroke();
    const [neck, head] = [mid("shoulder"), mid("ear")];
    line(ink.near, scale * 0.09, neck, head);
    to.beginPath();
    to.arc(head[0], head[1], scale * 0.115, 0, 2 * Math.PI);
    to.fill();
  };
  sides.forEach((side, i) => {
    const colour = i ? ink.near : ink.far;
    if (i) trunk();
    for (const [a, b, thick] of limbs) line(colour, scale * thick, at(`${side}_${a}`), at(`${side}_${b}`));
  });
  if (f.shaft.length)
    line(
      ink.held,
      scale * 0.03,
      [x(f.shaft[4 * n]), y(f.shaft[4 * n + 1])],
      [x(f.shaft[4 * n + 2]), y(f.shaft[4 * n + 3])],
    );
  else if (f.held.length) {
    const held: [number, number] = [x(f.held[2 * n]), y(f.held[2 * n + 1])];
    const hands = at("left_hand");
    if (f.wire && Math.hypot(held[0] - hands[0], held[1] - hands[1]) < 1.6 * scale) line(ink.held, 2, hands, held);
    to.fillStyle = ink.held;
    to.beginPath();
    to.arc(held[0], held[1], Math.max(4, scale * Math.max(0.05, f.size)), 0, 2 * Math.PI);
    to.fill();
  }
}
