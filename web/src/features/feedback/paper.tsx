import { Box, Flex, Grid, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import type { Page } from "../../api/client";
import { Ladder } from "../../ui/ladder";
import { t } from "../../texts/texts";
import { word } from "../../texts/words";
import { longDay } from "../../ui/written";

type Address = (clip: string, frame: number) => string;

const ink = "#222a2e";
const dim = "#687274";
const clay = "#b04e30";
const moss = "#4a7042";

/** Paper is the page itself: light, whatever the theme. Frame gives the address of a
 * frame of a clip as a picture. */
export function Paper({ p, frame, phone }: { p: Page; frame: Address; phone?: boolean }) {
  const about = [p.event, p.attempt.session, p.attempt.place, longDay(p.attempt.done_on), p.attempt.mark]
    .filter(Boolean)
    .join(" · ");
  const stills = (list: typeof p.stills) => (
    <Grid templateColumns={phone ? { base: "1fr 1fr", md: "repeat(3, 1fr)" } : "repeat(3, 1fr)"} gap="12px" mb="18px">
      {list.map((s) => (
        <Still key={`${s.clip_id} ${s.position}`} s={s} frame={frame} />
      ))}
    </Grid>
  );
  const advice = p.advice.map((a, i) => (
    <Box key={i} className="whole" borderTop="2px solid" borderColor={clay} pt="12px" mt="8px" mb="14px">
      <H tone={clay}>{i === 0 ? t("Think of this") : t("And then, once that is easy")}</H>
      <Text fontSize="21px" fontWeight="700" lineHeight="1.25" mb="6px">
        “{a.words}”
      </Text>
      <Grid
        templateColumns={phone ? { base: "1fr", md: "1fr 1fr" } : "1fr 1fr"}
        gap={phone ? { base: "8px", md: "20px" } : "20px"}
      >
        <Box>
          {a.drill.name && (
            <>
              <Text>
                <b>{t("Drill:")}</b> {a.drill.name}
              </Text>
              <Text>
                <b>{t("Sets and reps:")}</b> {a.drill.dose.says}
              </Text>
              <Text>
                <b>{t("Feel:")}</b> {a.drill.feel}
              </Text>
              <Ladder drill={a.drill} tone={dim} />
            </>
          )}
        </Box>
        <Box>
          <Text>
            <b>{t("Next clip:")}</b>{" "}
            {t("{name}, now {now}, wanted {goal}", {
              name: p.targets[i].name.toLowerCase(),
              now: p.targets[i].now,
              goal: p.targets[i].goal,
            })}
          </Text>
          {a.backfire && (
            <Text color={dim} fontSize="12px" mt="4px">
              {t("Watch for: {backfire}", { backfire: a.backfire })}
            </Text>
          )}
        </Box>
      </Grid>
    </Box>
  ));
  const note = p.note && (
    <Text my="12px" whiteSpace="pre-wrap">
      {p.note}
    </Text>
  );
  const why = (
    <Grid
      templateColumns={phone ? { base: "1fr", md: "1fr 1.35fr" } : "1fr 1.35fr"}
      gap={phone ? { base: "14px", md: "28px" } : "28px"}
    >
      <Box>
        <H tone={moss}>{t("Keep")}</H>
        {p.keep.map((k) => (
          <Flex key={k} gap="8px" mb="3px">
            <span style={{ color: moss }}>✓</span>
            {k}
          </Flex>
        ))}
        {!phone && note}
      </Box>
      <Box>
        {p.faults.map((f, i) => (
          <Box key={f.id} mb="14px" className="whole">
            <H tone={clay}>{i === 0 ? t("First cause") : t("Also seen")}</H>
            <Text fontWeight="650">{f.name}</Text>
            <Text>{f.effect}</Text>
            {f.shows.map((s) => (
              <Text key={s} color={dim} fontSize="12px">
                {s}
              </Text>
            ))}
            {f.leads.length > 0 && <Chain from={f.name} to={f.leads} />}
          </Box>
        ))}
      </Box>
    </Grid>
  );
  return (
    <Box
      className="sheet light"
      bg="#fdfcf8"
      color={ink}
      maxW="860px"
      mx="auto"
      p={phone ? { base: "16px", md: "34px" } : { base: "14px", md: "34px" }}
      borderRadius="4px"
      boxShadow="0 6px 30px rgba(0,0,0,.3)"
      data-testid="paper"
    >
      <Text as="h1" fontSize="24px" fontWeight="700" lineHeight="1.2">
        {p.athlete.name}
      </Text>
      <Text color={dim} mb="16px">
        {about}
      </Text>
      {p.effect && (
        <Text mb="12px">
          {t("Last time: “{lastCue}” –", { lastCue: p.last_cue })}{" "}
          <Text as="span" fontWeight="650" color={p.effect.verdict === "taken" ? moss : clay}>
            {word(p.effect.verdict)}
          </Text>
        </Text>
      )}
      {phone ? (
        // One picture, the cue and its number; the rest is there for who asks.
        <>
          {p.stills[0] && (
            <Box maxW="420px" mb="14px">
              <Still s={p.stills[0]} frame={frame} />
            </Box>
          )}
          {advice}
          {note}
          <Fold name={t("What is good, and why this")}>
            {why}
            {p.stills.length > 1 && stills(p.stills.slice(1))}
          </Fold>
        </>
      ) : (
        <>
          {stills(p.stills)}
          {why}
          {advice}
        </>
      )}
      {p.workshop.map((w, i) => (
        <Box key={i} className="whole" mb="14px" data-testid="reckoned">
          <Text fontWeight="650" color={dim} fontSize="12px">
            {t("From the workshop")}
          </Text>
          <Text fontWeight="650" fontSize="15px">
            {w.name}
          </Text>
          {w.lines.map((l) => (
            <Text key={l}>{l}</Text>
          ))}
          {w.says.map((s) => (
            <Text key={s} mt="4px">
              {s}
            </Text>
          ))}
          {w.caution && (
            <Text fontSize="11px" color={dim}>
              {w.caution}
            </Text>
          )}
        </Box>
      ))}
      <Box className="whole" fontSize="11px" color={dim} borderTop="1px solid #d6d4cc" pt="8px">
        {p.cautions.map((c) => (
          <Text key={c}>{c}</Text>
        ))}
      </Box>
    </Box>
  );
}

/** Fold is closed on a narrow screen, until somebody asks. */
function Fold({ name, children }: { name: string; children: ReactNode }) {
  const [open] = useState(() => window.matchMedia("(min-width: 768px)").matches);
  return (
    <details open={open} data-testid="fold">
      <summary style={{ cursor: "pointer", fontWeight: 650, padding: "10px 0" }}>{name}</summary>
      {children}
    </details>
  );
}

const H = ({ tone, children }: { tone: string; children: string }) => (
  <Text fontSize="12px" fontWeight="650" color={tone} mb="4px">
    {children}
  </Text>
);

/** Chain is what leads to what, as a small picture. */
function Chain({ from, to }: { from: string; to: string[] }) {
  const row = 34;
  const h = Math.max(1, to.length) * row;
  return (
    <Flex
      align="center"
      mt="8px"
      aria-label={t("{from} leads to {to}", { from, to: to.join(", ").toLowerCase() })}
      role="img"
      data-testid="chain"
    >
      <Box
        flex="1 1 0"
        bg={clay}
        color="#fdfcf8"
        borderRadius="5px"
        p="5px 8px"
        fontSize="11px"
        fontWeight="650"
        lineHeight="1.25"
      >
        {from}
      </Box>
      <svg width={34} height={h} viewBox={`0 0 34 ${h}`} style={{ flexShrink: 0 }}>
        {to.map((_, i) => {
          const y = (i + 0.5) * row;
          return (
            <path
              key={i}
              d={`M2 ${h / 2}C16 ${h / 2} 14 ${y} 27 ${y}M22 ${y - 4}L28 ${y}L22 ${y + 4}`}
              fill="none"
              stroke={clay}
              strokeWidth={1.6}
            />
          );
        })}
      </svg>
      <Box flex="1 1 0">
        {to.map((t) => (
          <Flex key={t} h={`${row}px`} align="center">
            <Box
              flex="1"
              border="1.4px solid"
              borderColor={clay}
              borderRadius="5px"
              p="3px 7px"
              fontSize="11px"
              lineHeight="1.2"
            >
              {t}
            </Box>
          </Flex>
        ))}
      </Box>
    </Flex>
  );
}

/** Still: the exact frame, cropped to the athlete, with its lines as vectors. */
function Still({ s, frame }: { s: Page["stills"][number]; frame: Address }) {
  const [x, y, w, h] = s.crop;
  const k = w / 260; // picture px for one px on paper
  const taken: [number, number][] = [];
  return (
    <Box className="whole">
      <svg
        viewBox={`${x} ${y} ${w} ${h}`}
        style={{ width: "100%", display: "block", borderRadius: 4 }}
        data-still={s.frame}
      >
        <image
          href={frame(s.clip_id, s.frame)}
          x={0}
          y={0}
          width={s.picture[0]}
          height={s.picture[1]}
          preserveAspectRatio="none"
        />
        {s.lines.map((l, i) => {
          const colour = l.side === "left" ? "#e0774f" : l.side === "right" ? "#8cc0d6" : "#fdf8ec";
          return (
            <g key={i}>
              <polyline
                points={l.at.map((q) => q.join(",")).join(" ")}
                fill="none"
                stroke={colour}
                strokeWidth={2 * k}
                strokeDasharray={l.side === "right" ? `${6 * k} ${3 * k}` : undefined}
              />
              {l.at.map((q, j) =>
                l.side === "right" ? (
                  <rect key={j} x={q[0] - 2.6 * k} y={q[1] - 2.6 * k} width={5.2 * k} height={5.2 * k} fill={colour} />
                ) : (
                  <circle key={j} cx={q[0]} cy={q[1]} r={3 * k} fill={colour} />
                ),
              )}
            </g>
          );
        })}
        {s.lines.map((l, i) => {
          const v = l.at[l.vertex];
          const tw = (l.label.length * 6 + 10) * k;
          const tx = Math.min(Math.max(v[0] + 6 * k, x), x + w - tw);
          let ty = Math.min(Math.max(v[1] - 6 * k, y + 2 * k), y + h - 16 * k);
          for (let n = 0; n < 10 && taken.some(([a, b]) => Math.abs(b - ty) < 15 * k && Math.abs(a - tx) < tw); n++)
            ty += 15.5 * k;
          taken.push([tx, ty]);
          return (
            <g key={`t${i}`}>
              <rect x={tx} y={ty} width={tw} height={14 * k} rx={5 * k} fill="#fdfaf2" opacity={0.9} />
              <text x={tx + 5 * k} y={ty + 10.4 * k} style={{ fontSize: 10 * k, fontWeight: 650 }} fill={ink}>
                {l.label}
              </text>
            </g>
          );
        })}
      </svg>
      <Text fontWeight="650" fontSize="12px" mt="4px">
        {s.position}{" "}
        <Text as="span" color={dim} fontWeight="400">
          {s.view && t("from the {view}, ", { view: s.view })}
          {t("frame {frame}", { frame: s.frame })}
        </Text>
      </Text>
      <Text fontSize="11px" color={dim}>
        {s.values.slice(0, 3).join(", ")}
      </Text>
    </Box>
  );
}
