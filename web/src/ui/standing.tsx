import { factsOf } from "../api/events";
import { t } from "../texts/texts";

// Where to stand with the phone, from above: what the event happens on in chalk lines, its
// way as an arrow, phones as wedges that open to what they see.

type Phone = { x: number; y: number; to: number; says: string; also?: boolean };

const w = 220;
const h = 128;

/** Standing draws the places of a phone for an event. */
export function Standing({ event }: { event: string }) {
  const f = factsOf(event);
  const { ground, phones } = f.circle
    ? circle(event)
    : f.runway === "bar"
      ? bar()
      : f.runway
        ? runway(f.runway)
        : lane();
  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width="100%"
      style={{ maxWidth: 320, display: "block" }}
      role="img"
      aria-label={t("From above: {places}", { places: phones.map((p) => p.says).join("; ") })}
      data-standing={event}
    >
      <g fill="none" stroke="var(--chakra-colors-quiet)" strokeWidth={1.4}>
        {ground}
      </g>
      {phones.map((p) => (
        <g key={p.says} transform={`translate(${p.x} ${p.y})`}>
          <path
            d="M0 0L34 -13A36 36 0 0 1 34 13Z"
            transform={`rotate(${p.to})`}
            fill="var(--chakra-colors-amber)"
            fillOpacity={p.also ? 0.12 : 0.3}
          />
          <rect
            x={-3}
            y={-5.5}
            width={6}
            height={11}
            rx={1.5}
            transform={`rotate(${p.to})`}
            fill={p.also ? "var(--chakra-colors-panel)" : "var(--chakra-colors-amber)"}
            stroke="var(--chakra-colors-amber)"
          />
          <text
            x={p.to === 0 ? -2 : 10}
            y={p.to === 0 ? -11 : 4}
            fontSize={9.5}
            fill="var(--chakra-colors-chalk)"
            style={{ fontFamily: "inherit" }}
          >
            {p.says}
          </text>
        </g>
      ))}
    </svg>
  );
}

const arrow = (d: string, key = "way") => (
  <path key={key} d={d} stroke="var(--chakra-colors-clay)" strokeWidth={2} markerEnd="url(#tip)" />
);
const tip = (
  <marker key="tip" id="tip" viewBox="0 0 6 6" refX={4} refY={3} markerWidth={5} markerHeight={5} orient="auto">
    <path d="M0 0L6 3L0 6Z" fill="var(--chakra-colors-clay)" stroke="none" />
  </marker>
);
const side = (x: number): Phone => ({ x, y: 112, to: -90, says: t("square to it, level") });

const lane = () => ({
  ground: [tip, <path key="lanes" d="M10 30H210M10 58H210" />, <path key="line" d="M52 30V58" />, arrow("M60 44H150")],
  phones: [side(105)],
});

const runway = (kind: string) => ({
  ground: [
    tip,
    <path key="runway" d="M8 34H140M8 58H140" />,
    kind === "board" ? (
      <path key="pit" d="M132 34V58M158 26H212V66H158Z" />
    ) : kind === "box" ? (
      <path key="mat" d="M140 40L150 46L140 52M152 20H212V72H152Z" />
    ) : (
      <path key="arc" d="M140 30Q150 46 140 62M140 30L210 14M140 62L210 78" />
    ),
    arrow("M24 46H122"),
  ],
  phones: [side(kind === "board" ? 140 : 120), { x: 8, y: 92, to: -38, says: t("or from behind"), also: true }],
});

const bar = () => ({
  ground: [
    tip,
    <path key="mat" d="M96 8H164V40H96Z" />,
    <path key="bar" d="M96 44H164" strokeWidth={2.6} />,
    arrow("M40 116C42 84 70 60 112 52"),
  ],
  phones: [
    { x: 206, y: 46, to: 180, says: "" },
    { x: 150, y: 112, to: -100, says: t("in front of the curve"), also: true },
  ].map((p) => ({ ...p, says: p.says || t("along the bar") })),
});

const circle = (event: string) => {
  const behind: Phone = { x: 14, y: 50, to: 0, says: t("behind the cage") };
  const beside: Phone = { ...side(78), says: t("square to the throw") };
  const turned = event !== "shot";
  return {
    ground: [
      tip,
      <circle key="circle" cx={78} cy={50} r={19} />,
      <path key="sector" d="M78 50L206 20M78 50L206 80" />,
      turned && <path key="cage" d="M104 12L58 16L44 50L58 84L104 88" strokeDasharray="4 3" />,
      arrow("M112 50H176"),
    ],
    phones: turned ? [behind, { ...beside, also: true }] : [beside, { ...behind, says: t("from behind"), also: true }],
  };
};
