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

/** most is how many pictures are looked at: each is a frame of the clip. */
const most = 48;

/** Ghost shows the athlete's own movement with a fault taken out, over the clip, in phase. */
export function Ghost({ attempt, fault }: { attempt: string; fault: string }) {
  const [by, setBy] = useState("0");
  const [at, setAt] = useState(0);
  const [plays, setPlays] = useState(false);
  const asked = useQuery({
    queryKey: about("ghost", attempt, fault, by),
    queryFn: () =>
      ask(client.GET("/attempts/{id}/ghost", { params: { path: { id: attempt }, query: { fault, by: Number(by) } } })),
    retry: false,
    placeholderData: (before) => before,
  });
  const g = asked.data;
  const each = g ? Math.max(1, Math.ceil(g.frames / most)) : 1;
  const n = g ? Math.min(g.frames - 1, at * each) : 0;
  const last = g ? Math.floor((g.frames - 1) / each) : 0;
  useEffect(() => {
    if (!plays) return;
    const timer = setInterval(() => setAt((a) => (a >= last ? 0 : a + 1)), 1000 / 10);
    return () => clearInterval(timer);
  }, [plays, last]);
  // The pictures come before they are asked for.
  useEffect(() => {
    if (!g) return;
    for (let k = 0; k <= last; k++) new Image().src = frameURL(g.clip, g.first + k * each, 960);
  }, [g?.clip, g?.first, last, each, g]);
  if (asked.error) return <Notice>{asked.error.message}</Notice>;
  if (!g) return <Text color="quiet">{t("It is being drawn.")}</Text>;
  return (
    <Box data-testid="ghost" data-frame={g.first + n}>
      <Box position="relative" borderRadius="8px" overflow="hidden" bg="pit">
        <img
          src={frameURL(g.clip, g.first + n, 960)}
          alt={t("frame {n} of the clip", { n: g.first + n })}
          style={{ display: "block", width: "100%", aspectRatio: `${g.width} / ${g.height}` }}
        />
        <svg
          viewBox={`0 0 ${g.width} ${g.height}`}
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
          aria-hidden
        >
          <Body g={g} of="own" n={n} colour="#e7ecec" width={g.height / 260} />
          <Body g={g} of="points" n={n} colour="#ffb35c" width={g.height / 120} />
        </svg>
      </Box>
      <Flex gap="6px" align="center" my="8px">
        <Button
          h="44px"
          variant="outline"
          aria-label={t("One picture back")}
          onClick={() => setAt(Math.max(0, at - 1))}
        >
          ◂
        </Button>
        <Button h="44px" minW="84px" variant="outline" onClick={() => setPlays(!plays)}>
          {plays ? t("Stop") : t("Play")}
        </Button>
        <Button
          h="44px"
          variant="outline"
          aria-label={t("One picture on")}
          onClick={() => setAt(Math.min(last, at + 1))}
        >
          ▸
        </Button>
        <input
          type="range"
          min={0}
          max={last}
          value={at}
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
