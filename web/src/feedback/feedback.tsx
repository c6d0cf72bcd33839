import { Box, Button, Flex, Grid, Link, Text } from "@chakra-ui/react";
import { Link as To, useParams } from "react-router";
import type { Page } from "../api/client";
import { frameURL, useFeedback, useSetState } from "../api/queries";
import { Notice } from "../ui/parts";

const print = `@page { margin: 12mm } @media print { html { color-scheme: light } body { background: #fff !important } .screen { display: none !important } .sheet { box-shadow: none !important; margin: 0 !important; padding: 0 !important; max-width: none !important } .whole { break-inside: avoid } }`;

/** Feedback is the page that the athlete gets, always on light paper. */
export default function Feedback() {
  const { id = "" } = useParams();
  const page = useFeedback(id);
  const setState = useSetState();
  if (page.error)
    return (
      <Notice tone="clay" m="40px">
        {page.error.message}
      </Notice>
    );
  if (!page.data) return null;
  const p = page.data;
  return (
    <Box minH="100%" bg="ground" pb="40px">
      <style>{print}</style>
      <Flex className="screen" h="54px" align="center" gap="8px" maxW="880px" mx="auto" px="12px">
        <To to={`/attempt/${id}`} style={{ color: "inherit" }}>
          ← back to the Bench
        </To>
        <Box flex="1" />
        {(
          [
            ["PDF, A4", "feedback.pdf?paper=a4"],
            ["PDF, Letter", "feedback.pdf?paper=letter"],
            ["CSV", "export.csv"],
            ["JSON", "export.json"],
          ] as const
        ).map(([t, f]) => (
          <Link key={t} href={`/api/attempts/${id}/${f}`} download color="quiet" fontSize="12px" px="6px">
            {t}
          </Link>
        ))}
        <Button size="xs" variant="outline" onClick={() => window.print()}>
          print
        </Button>
        <Button size="xs" disabled={p.attempt.state === "sent"} onClick={() => setState.mutate({ id, state: p.attempt.state === "ready" ? "sent" : "ready" })}>
          {p.attempt.state === "sent" ? "sent" : p.attempt.state === "ready" ? "mark as sent" : "it is ready"}
        </Button>
      </Flex>
      {p.lacks.map((l) => (
        <Notice key={l} className="screen" maxW="860px" mx="auto" mb="8px">
          {l}
        </Notice>
      ))}
      <Paper p={p} />
    </Box>
  );
}

const ink = "#222a2e";
const dim = "#687274";
const clay = "#b04e30";
const moss = "#4a7042";

function Paper({ p }: { p: Page }) {
  const about = [p.event, p.attempt.session, p.attempt.place, p.attempt.done_on, p.attempt.mark].filter(Boolean).join(" · ");
  return (
    <Box className="sheet light" bg="#fdfcf8" color={ink} maxW="860px" mx="auto" p="34px" borderRadius="4px" boxShadow="0 6px 30px rgba(0,0,0,.3)" data-testid="paper">
      <Text fontSize="24px" fontWeight="700" lineHeight="1.2">
        {p.athlete.name}
      </Text>
      <Text color={dim} mb="16px">
        {about}
      </Text>
      {p.effect && (
        <Text mb="12px">
          Last time: “{p.last_cue}” –{" "}
          <Text as="span" fontWeight="650" color={p.effect.verdict === "taken" ? moss : clay}>
            {p.effect.verdict}
          </Text>
        </Text>
      )}
      <Grid templateColumns="repeat(3, 1fr)" gap="12px" mb="18px">
        {p.stills.map((s) => (
          <Still key={s.position} s={s} p={p} />
        ))}
      </Grid>
      <Grid templateColumns={{ base: "1fr 1.35fr" }} gap="28px">
        <Box>
          <H tone={moss}>Keep</H>
          {p.keep.map((k) => (
            <Flex key={k} gap="8px" mb="3px">
              <span style={{ color: moss }}>✓</span>
              {k}
            </Flex>
          ))}
          {p.note && (
            <Text mt="12px" whiteSpace="pre-wrap">
              {p.note}
            </Text>
          )}
        </Box>
        <Box>
          {p.faults.map((f, i) => (
            <Box key={f.id} mb="14px" className="whole">
              <H tone={clay}>{i === 0 ? "First cause" : "Also seen"}</H>
              <Text fontWeight="650">{f.name}</Text>
              <Text>{f.effect}</Text>
              {f.shows.map((s) => (
                <Text key={s} color={dim} fontSize="12px">
                  {s}
                </Text>
              ))}
              {f.leads.length > 0 && <Text fontSize="12px">It leads to: {f.leads.join(", ").toLowerCase()}.</Text>}
            </Box>
          ))}
        </Box>
      </Grid>
      {p.advice.map((a, i) => (
        <Box key={i} className="whole" borderTop="2px solid" borderColor={clay} pt="12px" mt="8px" mb="14px">
          <H tone={clay}>{i === 0 ? "Think of this" : "And, when that is easy"}</H>
          <Text fontSize="21px" fontWeight="700" lineHeight="1.25" mb="6px">
            “{a.words}”
          </Text>
          <Grid templateColumns="1fr 1fr" gap="20px">
            <Box>
              {a.drill.name && (
                <>
                  <Text>
                    <b>Drill:</b> {a.drill.name}
                  </Text>
                  <Text>
                    <b>Dose:</b> {a.drill.dose}
                  </Text>
                  <Text>
                    <b>Feel:</b> {a.drill.feel}
                  </Text>
                </>
              )}
            </Box>
            <Box>
              <Text>
                <b>Next clip:</b> {p.targets[i].name.toLowerCase()}, now {p.targets[i].now}, wanted {p.targets[i].goal}
              </Text>
              {a.backfire && (
                <Text color={dim} fontSize="12px" mt="4px">
                  Watch for: {a.backfire}
                </Text>
              )}
            </Box>
          </Grid>
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

const H = ({ tone, children }: { tone: string; children: string }) => (
  <Text fontSize="12px" fontWeight="650" color={tone} mb="4px">
    {children}
  </Text>
);

/** Still: the exact frame, cropped to the athlete, with its lines as vectors. */
function Still({ s, p }: { s: Page["stills"][number]; p: Page }) {
  const [x, y, w, h] = s.crop;
  const k = w / 260; // picture px for one px on paper
  const taken: [number, number][] = [];
  return (
    <Box className="whole">
      <svg viewBox={`${x} ${y} ${w} ${h}`} style={{ width: "100%", display: "block", borderRadius: 4 }} data-still={s.frame}>
        <image href={frameURL(p.clip_id!, s.frame)} x={0} y={0} width={p.picture[0]} height={p.picture[1]} preserveAspectRatio="none" />
        {s.lines.map((l, i) => {
          const colour = l.side === "left" ? "#e0774f" : l.side === "right" ? "#8cc0d6" : "#fdf8ec";
          return (
            <g key={i}>
              <polyline points={l.at.map((q) => q.join(",")).join(" ")} fill="none" stroke={colour} strokeWidth={2 * k} strokeDasharray={l.side === "right" ? `${6 * k} ${3 * k}` : undefined} />
              {l.at.map((q, j) => (l.side === "right" ? <rect key={j} x={q[0] - 2.6 * k} y={q[1] - 2.6 * k} width={5.2 * k} height={5.2 * k} fill={colour} /> : <circle key={j} cx={q[0]} cy={q[1]} r={3 * k} fill={colour} />))}
            </g>
          );
        })}
        {s.lines.map((l, i) => {
          const v = l.at[l.vertex];
          const tw = (l.label.length * 6 + 10) * k;
          const tx = Math.min(Math.max(v[0] + 6 * k, x), x + w - tw);
          let ty = Math.min(Math.max(v[1] - 6 * k, y + 2 * k), y + h - 16 * k);
          for (let n = 0; n < 10 && taken.some(([a, b]) => Math.abs(b - ty) < 15 * k && Math.abs(a - tx) < tw); n++) ty += 15.5 * k;
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
          frame {s.frame}
        </Text>
      </Text>
      <Text fontSize="11px" color={dim}>
        {s.values.slice(0, 3).join(", ")}
      </Text>
    </Box>
  );
}
