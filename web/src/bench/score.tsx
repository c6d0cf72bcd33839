import { Box } from "@chakra-ui/react";
import { memo, useLayoutEffect, useRef, useState, type PointerEvent, type ReactNode } from "react";
import type { Model, Report } from "../api/client";
import { minus } from "../ui/numbers";
import { Player, usePlayer } from "./player";

type Props = {
  model: Model;
  phases?: Report["phases"];
  bars?: Report["bars"];
  flags: Record<string, number>;
  player: Player;
  known: boolean; // true time is known
  chosen: string | null;
  onChoose(position: string): void;
  onFlag(position: string, frame: number, final: boolean): void;
};

const left = 78;
const rows = { ruler: 14, flags: 32, phase: 74, leftFoot: 106, rightFoot: 134, end: 160 };
const C = (name: string) => `var(--chakra-colors-${name})`;

/** Score: ruler, flags, phases and a bar for each foot while it is down. The
 * cursor runs over all of them; a flag can be dragged. */
export const Score = memo(function Score({ model, phases, bars, flags, player, known, chosen, onChoose, onFlag }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [w, setW] = useState(836);
  const [drag, setDrag] = useState<{ flag: string; frame: number; from: number } | null>(null);
  const pressed = useRef(false);
  const [range, setRange] = useState<[number, number] | null>(null);
  const loop = usePlayer(player, (s) => s.loop);
  useLayoutEffect(() => {
    const see = new ResizeObserver(() => setW(box.current!.clientWidth));
    see.observe(box.current!);
    return () => see.disconnect();
  }, []);

  const times = player.times;
  const end = times.at(-1) || 1;
  const width = w - left - 14;
  const xt = (t: number) => left + (t / end) * width;
  const x = (frame: number) => xt(times[Math.max(0, Math.min(times.length - 1, frame))] ?? 0);
  const frameAt = (px: number) => {
    const t = ((px - left) / width) * end;
    let best = 0;
    for (let i = 0; i < times.length; i++) if (Math.abs(times[i] - t) < Math.abs(times[best] - t)) best = i;
    return best;
  };
  const px = (e: PointerEvent) => e.clientX - box.current!.getBoundingClientRect().left;

  const zero = times[flags.move ?? flags.set ?? 0] ?? 0;
  const step = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10].find((s) => (s / end) * width > 62) ?? 30;
  const ticks: ReactNode[] = [];
  for (let k = Math.ceil(-zero / step); k * step <= end - zero + 1e-9; k++) {
    const t = k * step;
    ticks.push(
      <g key={k}>
        <path d={`M${xt(t + zero)} ${rows.ruler + 4}V${rows.end}`} stroke={C("seam")} strokeWidth={k === 0 ? 1.4 : 0.6} />
        <text x={xt(t + zero)} y={rows.ruler} style={{ fontSize: 10.5 }} fill={C("quiet")} textAnchor="middle">
          {k === 0 ? "0 s" : minus((t > 0 ? "+" : "") + t.toFixed(step < 0.1 ? 2 : 1))}
        </text>
      </g>,
    );
  }

  const places = model.positions
    .filter((p) => flags[p.id] !== undefined || drag?.flag === p.id)
    .map((p) => ({ p, frame: drag?.flag === p.id ? drag.frame : flags[p.id] }))
    .sort((a, b) => a.frame - b.frame);
  // Names in two heights so that close flags can both be read.
  const lastEnd = [-1e9, -1e9];
  const named = places.map((q) => {
    const at = x(q.frame);
    const row = lastEnd[0] < at - 2 ? 0 : lastEnd[1] < at - 2 ? 1 : -1;
    if (row >= 0) lastEnd[row] = at + q.p.short.length * 5.8 + 12;
    return { ...q, at, row };
  });

  const down = (e: PointerEvent<HTMLDivElement>) => {
    if (e.button !== 0) return;
    const at = px(e);
    const y = e.clientY - box.current!.getBoundingClientRect().top;
    box.current!.setPointerCapture(e.pointerId);
    pressed.current = true;
    if (y > rows.flags - 12 && y < rows.phase - 8) {
      const near = named.map((n) => ({ n, d: at - n.at })).filter(({ d }) => d > -6 && d < 14).sort((a, b) => Math.abs(a.d) - Math.abs(b.d))[0];
      if (near) {
        onChoose(near.n.p.id);
        player.pause();
        player.jump(near.n.frame);
        setDrag({ flag: near.n.p.id, frame: near.n.frame, from: near.n.frame });
        return;
      }
    }
    player.pause();
    if (y < rows.ruler + 6) {
      const f = frameAt(at);
      setRange([f, f]);
    } else player.jump(frameAt(at));
  };
  const move = (e: PointerEvent<HTMLDivElement>) => {
    if (!pressed.current) return;
    const f = frameAt(px(e));
    if (drag) {
      if (f === drag.frame) return;
      setDrag({ ...drag, frame: f });
      player.jump(f);
      onFlag(drag.flag, f, false);
    } else if (range) setRange([range[0], f]);
    else player.jump(f);
  };
  const up = () => {
    pressed.current = false;
    if (drag && drag.frame !== drag.from) onFlag(drag.flag, drag.frame, true);
    if (range) player.setLoop(range[0] === range[1] ? null : [Math.min(...range), Math.max(...range)]);
    setDrag(null);
    setRange(null);
  };

  const shade = range && range[0] !== range[1] ? ([Math.min(...range), Math.max(...range)] as const) : loop;
  return (
    <Box ref={box} position="relative" h={`${rows.end + 8}px`} userSelect="none" touchAction="none" cursor="ew-resize" onPointerDown={down} onPointerMove={move} onPointerUp={up} data-testid="score">
      <svg width={w} height={rows.end + 8} style={{ display: "block" }}>
        {shade && <rect x={x(shade[0])} y={2} width={x(shade[1]) - x(shade[0])} height={rows.end - 2} fill={C("amber")} opacity={0.14} />}
        {ticks}
        {[
          ["flags", rows.flags + 12],
          ["phase", rows.phase + 13],
          ["left foot", rows.leftFoot + 13],
          ["right foot", rows.rightFoot + 13],
        ].map(([t, y]) => (
          <text key={t} x={4} y={y} style={{ fontSize: 11.5 }} fill={C("quiet")}>
            {t}
          </text>
        ))}
        {!known && (
          <text x={left} y={rows.end + 5} style={{ fontSize: 10.5 }} fill={C("amber")}>
            file time: the capture rate is not known yet
          </text>
        )}
        {named.map((n) => (
          <path key={n.p.id} d={`M${n.at} ${rows.flags}V${rows.end}`} stroke={C("chalk")} strokeOpacity={0.16} />
        ))}
        {phases?.map((s, i) => (
          <Bar key={s.id} x0={x(s.from)} x1={x(s.to)} y={rows.phase} fill={C(i % 2 ? "raised" : "seam")} text={s.name} ink={C("chalk")} small />
        ))}
        {bars?.map((b) => {
          const right = b.foot === "right";
          return (
            <Bar
              key={b.foot + b.from}
              x0={x(b.from)}
              x1={x(b.to)}
              y={right ? rows.rightFoot : rows.leftFoot}
              fill={C(right ? "sky" : "clay")}
              ink={C("on-clay")}
              text={b.seconds ? `${b.name} · ${Math.round(b.seconds.value * 1000)}${b.since > b.from ? " ms push" : ""}` : b.name}
              short={b.seconds ? `${Math.round(b.seconds.value * 1000)}` : ""}
              whisker={b.seconds ? ((b.seconds.half / end) * width) / 2 : 0}
              round={!right}
            />
          );
        })}
        {named.map((n) => {
          const on = chosen === n.p.id;
          const y = rows.flags + (n.row > 0 ? 18 : 0);
          return (
            <g key={n.p.id} data-flag={n.p.id} data-frame={n.frame} style={{ cursor: "grab" }}>
              <path d={`M${n.at} ${y}v16`} stroke={on ? C("clay") : C("amber")} strokeWidth={1.6} />
              <path d={`M${n.at} ${y}l9 4.5l-9 4.5z`} fill={on ? C("clay") : C("amber")} />
              {n.row >= 0 && (
                <text x={n.at + 11} y={y + 8.5} style={{ fontSize: 10 }} fill={on ? C("chalk") : C("quiet")}>
                  {n.p.short}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      <Cursor player={player} x={x} />
    </Box>
  );
});

/** Cursor moves by itself, so that playing does not draw the score anew. */
function Cursor({ player, x }: { player: Player; x(frame: number): number }) {
  const frame = usePlayer(player, (s) => s.frame);
  return (
    <svg width="100%" height={rows.end + 8} style={{ position: "absolute", inset: 0, pointerEvents: "none" }}>
      <path d={`M${x(frame)} 18V${rows.end + 4}`} stroke={C("clay")} strokeWidth={1.8} />
      <path d={`M${x(frame) - 5} 17h10l-5 7z`} fill={C("clay")} />
    </svg>
  );
}

function Bar({ x0, x1, y, fill, text, short = "", ink, whisker = 0, small, round }: { x0: number; x1: number; y: number; fill: string; text: string; short?: string; ink: string; whisker?: number; small?: boolean; round?: boolean }) {
  const w = Math.max(2, x1 - x0);
  const fits = text.length * (small ? 5.4 : 6.2) + 8 < w ? text : short.length * 6.4 + 4 < w ? short : "";
  return (
    <g>
      <rect x={x0} y={y} width={w} height={18} rx={round ? 7 : 2} fill={fill} />
      {fits && (
        <text x={x0 + w / 2} y={y + 13} style={{ fontSize: small ? 10 : 11, fontWeight: small ? 400 : 600 }} fill={ink} textAnchor="middle">
          {fits}
        </text>
      )}
      {whisker > 0.5 && <path d={`M${x0 - whisker} ${y - 2}h${2 * whisker}M${x1 - whisker} ${y - 2}h${2 * whisker}`} stroke={C("chalk")} strokeWidth={1.4} />}
    </g>
  );
}
