import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ask, client, type GhostView } from "../../../api/client";
import { frameURL } from "../../../api/media";
import { about } from "../../../api/topic";
import { Choice } from "../../../ui/field";
import { Notice } from "../../../ui/parts";
import { t } from "../../../texts/texts";

/** lines of a body, of either side. */
const limbs: [string, string][] = [
  ["ear", "shoulder"],
  ["shoulder", "elbow"],
  ["elbow", "hand"],
  ["shoulder", "hip"],
  ["hip", "knee"],
  ["knee", "ankle"],
  ["heel", "toe"],
];

/** whole is the width of the pictures that are asked for, px: a part of each is shown. */
const whole = 1920;

/** Ghost shows the athlete's own movement with a fault taken out, over the clip, in phase. */
export function Ghost({ attempt, fault }: { attempt: string; fault: string }) {
  const [by, setBy] = useState("0");
  const [at, setAt] = useState<number | null>(null);
  const [plays, setPlays] = useState(false);
  const asked = useQuery({
    queryKey: about("ghost", attempt, fault, by),
    queryFn: () =>
      ask(client.GET("/attempts/{id}/ghost", { params: { path: { id: attempt }, query: { fault, by: Number(by) } } })),
    retry: false,
    placeholderData: (before) => before,
  });
  const g = asked.data;
  const last = g ? g.frames.length - 1 : 0;
  const n = Math.min(at ?? g?.most ?? 0, last);
  useEffect(() => {
    if (!plays) return;
    const timer = setInterval(() => setAt((a) => ((a ?? 0) >= last ? 0 : (a ?? 0) + 1)), 1000 / 10);
    return () => clearInterval(timer);
  }, [plays, last]);
  // The pictures come before they are asked for.
  useEffect(() => {
    for (const f of g?.frames ?? []) new Image().src = frameURL(g!.clip, f, whole);
  }, [g]);
  if (asked.error) return <Notice>{asked.error.message}</Notice>;
  if (!g) return <Text color="quiet">{t("It is being drawn.")}</Text>;
  return (
    <Box data-testid="ghost" data-frame={g.frames[n]}>
      <Box borderRadius="8px" overflow="hidden" bg="pit">
        <svg
          viewBox={g.around[n].join(" ")}
          style={{ display: "block", width: "100%", aspectRatio: `${g.width} / ${g.height}` }}
          role="img"
          aria-label={t("frame {n} of the clip", { n: g.frames[n] })}
        >
          <image href={frameURL(g.clip, g.frames[n], whole)} width={g.width} height={g.height} />
          <Body g={g} of="own" n={n} colour="#e7ecec" width={g.around[n][3] / 200} />
          <Body g={g} of="points" n={n} colour="#ffb35c" width={g.around[n][3] / 90} />
        </svg>
      </Box>
      <Flex gap="6px" align="center" my="8px">
        <Button h="44px" variant="outline" aria-label={t("One picture back")} onClick={() => setAt(Math.max(0, n - 1))}>
          ◂
        </Button>
        <Button h="44px" minW="84px" variant="outline" onClick={() => setPlays(!plays)}>
          {plays ? t("Stop") : t("Play")}
        </Button>
        <Button
          h="44px"
          variant="outline"
          aria-label={t("One picture on")}
          onClick={() => setAt(Math.min(last, n + 1))}
        >
          ▸
        </Button>
        <input
          type="range"
          min={0}
          max={last}
          value={n}
          aria-label={t("Picture")}
          style={{ flex: 1, minWidth: 0, height: 44 }}
          onChange={(e) => {
            setPlays(false);
            setAt(Number(e.target.value));
          }}
        />
        <Box w="150px">
          <Choice
            name="by"
            label={t("How much of it is left")}
            value={by}
            options={{ "0": t("taken out"), "0.5": t("half of it"), "2": t("twice as much") }}
            onChange={setBy}
          />
        </Box>
      </Flex>
      <Text fontSize="12.5px" color="quiet">
        {t(
          "Thin: as measured. Orange: the same movement as it should be, by the simulated athlete of the same body; a picture to aim at, not a measurement.",
        )}{" "}
        {g.says}
      </Text>
    </Box>
  );
}

function Body({
  g,
  of,
  n,
  colour,
  width,
}: {
  g: GhostView;
  of: "own" | "points";
  n: number;
  colour: string;
  width: number;
}) {
  const at = (id: string): [number, number] | null => {
    const p = g[of][id];
    return p && p[2 * n] >= 0 ? [p[2 * n], p[2 * n + 1]] : null;
  };
  const line = (a: string, b: string) => {
    const [p, q] = [at(a), at(b)];
    return (
      p &&
      q && (
        <line
          key={a + b}
          x1={p[0]}
          y1={p[1]}
          x2={q[0]}
          y2={q[1]}
          stroke={colour}
          strokeWidth={width}
          strokeLinecap="round"
        />
      )
    );
  };
  return (
    <>
      {["left_", "right_"].flatMap((side) => limbs.map(([a, b]) => line(side + a, side + b)))}
      {line("left_shoulder", "right_shoulder")}
      {line("left_hip", "right_hip")}
    </>
  );
}
