import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Link as RouterLink, useNavigate, useParams, useSearchParams } from "react-router";
import type { Agreement, Clip, Workspace } from "../../api/client";
import { Head, Label, Notice, Panel } from "../../ui/parts";
import { Player, usePlayer } from "../workspace/stage/player";
import { looking, Stage } from "../workspace/stage/stage";
import { bones } from "../workspace/stage/drawn";
import type { Overlay } from "../workspace/stage/tools";
import * as tracks from "../workspace/work/tracks";
import { useWorkspace } from "../workspace/api";
import { useAgainst, useTakeOver } from "./api";
import { digits } from "./phases";
import { usePlayerOf } from "./players";
import { Transport } from "./side";
import { useTitle } from "../../ui/title";
import { Opening } from "../../ui/opening";
import { t } from "../../texts/texts";
import { written, fixed } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";

/** The page holds a clip's points against those of a laboratory or another program. */
export default function AgainstPage() {
  const { id = "" } = useParams();
  const [search] = useSearchParams();
  const of = search.get("clip");
  const found = useWorkspace(id);
  const sheet = found.data;
  useTitle(sheet?.athlete.name, t("points beside others"));
  if (!sheet) return <Opening what={t("the clip")} error={found.error} />;
  const clip =
    sheet.clips.find((c) => c.state === "ready" && c.id === of) ?? sheet.clips.find((c) => c.state === "ready");
  if (!clip)
    return (
      <Box p="40px">
        <Notice mb="12px">{t("This attempt has no clip that is ready.")}</Notice>
        <RouterLink to={`/attempt/${id}`}>{t("Back to the attempt")}</RouterLink>
      </Box>
    );
  return <Against key={clip.id} sheet={sheet} clip={clip} />;
}

function Against({ sheet, clip }: { sheet: Workspace; clip: Clip }) {
  const go = useNavigate();
  const player = usePlayerOf(clip);
  const frame = usePlayer(player, (s) => s.frame);
  const [file, setFile] = useState<File | null>(null);
  const [first, setFirst] = useState(0);
  const against = useAgainst(clip.id);
  const take = useTakeOver(sheet);
  const found = against.data;
  const hold = (f: File | null, at: number) => {
    setFile(f);
    setFirst(at);
    take.reset();
    if (f) against.mutate({ file: f, first: at });
  };
  useEffect(() => () => player.pause(), [player]);
  usePageKeys({
    ArrowLeft: (e) => player.step(e.shiftKey ? -10 : -1),
    ArrowRight: (e) => player.step(e.shiftKey ? 10 : 1),
    " ": () => player.toggle(),
    Escape: () => void go(`/attempt/${sheet.attempt.id}`),
  });
  const theirs = (f: number): Overlay[] => {
    const lines: [number, number][][] = [];
    for (const side of ["left", "right"])
      for (const [a, b] of bones) {
        const p = tracks.at(found?.points[`${side}_${a}`], f);
        const q = tracks.at(found?.points[`${side}_${b}`], f);
        if (p && q)
          lines.push([
            [p.x, p.y],
            [q.x, q.y],
          ]);
      }
    return lines.length ? [{ key: "theirs", style: "now", lines }] : [];
  };
  return (
    <Flex
      as="main"
      direction="column"
      h={{ base: "auto", md: "100vh" }}
      minH="640px"
      overflow={{ base: "visible", md: "hidden" }}
    >
      <Flex
        minH="48px"
        py="4px"
        wrap="wrap"
        align="center"
        gap="12px"
        px={{ base: "8px", md: "16px" }}
        borderBottom="1px solid"
        borderColor="seam"
        flexShrink={0}
      >
        <RouterLink
          to={`/attempt/${sheet.attempt.id}`}
          title={t("Back to the attempt (Esc)")}
          aria-label={t("Back to the attempt")}
        >
          <img src="/mark.svg" width={24} height={24} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="15px" fontWeight="700">
          {t("Held against others’ points")}
        </Text>
        <Text color="quiet" fontSize="12px" truncate>
          {sheet.athlete.name}, {sheet.model.name.toLowerCase()}, {clip.name}
        </Text>
        <Box flex="1" />
        <Transport player={player} />
      </Flex>
      <Flex flex="1" minH="0" gap="12px" p={{ base: "8px", md: "12px 16px" }} direction={{ base: "column", md: "row" }}>
        <Flex direction="column" flex="1" minW="0" gap="6px">
          <Box flex="1" minH={{ base: "66vw", md: "0" }} position="relative">
            <Stage
              clip={clip}
              player={player}
              points={sheet.work.clips[clip.id]?.points ?? {}}
              model={sheet.model}
              report={undefined}
              {...looking}
              far={null}
              bones
              overlays={theirs}
            />
          </Box>
          <Text fontSize="11.5px" color="quiet">
            {t("frame {frame}", { frame })}
            {found?.units === "px" && t("; ours in clay and sky, theirs dotted in amber")}
          </Text>
        </Flex>
        <Panel w={{ base: "auto", md: "420px" }} flexShrink={0} p="12px 16px" overflowY="auto" data-testid="against">
          <Choose file={file} first={first} last={clip.stamps.length - 1} here={frame} onHold={hold} />
          {against.error && (
            <Notice tone="clay" mt="10px">
              {against.error.message}
            </Notice>
          )}
          {against.isPending && (
            <Text color="quiet" mt="10px">
              {t("Read and held against the clip …")}
            </Text>
          )}
          {found ? (
            <Found
              found={found}
              player={player}
              onTake={() => take.mutate({ clip: clip.id, points: found.points })}
              taken={take.isSuccess}
              trouble={take.error?.message}
            />
          ) : (
            !against.isPending && !against.error && <Explained clip={clip} />
          )}
        </Panel>
      </Flex>
    </Flex>
  );
}

/** Choose: the file, and where in the clip it begins. */
function Choose({
  file,
  first,
  last,
  here,
  onHold,
}: {
  file: File | null;
  first: number;
  last: number;
  here: number;
  onHold(f: File | null, first: number): void;
}) {
  const pick = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState(String(first));
  const at = (v: number) => {
    const n = Math.max(0, Math.min(last, Math.round(v) || 0));
    setTyped(String(n));
    onHold(file, n);
  };
  return (
    <Box>
      <input
        ref={pick}
        type="file"
        hidden
        accept=".json,.c3d"
        data-testid="points-file"
        onChange={(e) => {
          const f = e.target.files?.[0];
          e.target.value = "";
          if (f) onHold(f, first);
        }}
      />
      <Flex gap="8px" align="center">
        <Button size="xs" onClick={() => pick.current?.click()}>
          {file ? t("Another file") : t("Choose a file")}
        </Button>
        <Text fontSize="12px" color="quiet" truncate flex="1">
          {file?.name ?? t("COCO keypoints (.json) or C3D")}
        </Text>
      </Flex>
      <Label>{t("It begins in the clip’s frame")}</Label>
      <Flex gap="6px" align="center">
        <Input
          size="xs"
          w="80px"
          value={typed}
          inputMode="numeric"
          aria-label={t("first frame")}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => Number(typed) !== first && at(Number(typed))}
          onKeyDown={(e) => e.key === "Enter" && at(Number(typed))}
        />
        <Button size="xs" variant="outline" onClick={() => at(here)}>
          {t("The one shown, {here}", { here })}
        </Button>
      </Flex>
    </Box>
  );
}

/** Explained is what the page is for, and how to give this clip's points to others. */
function Explained({ clip }: { clip: Clip }) {
  return (
    <Box mt="18px" fontSize="12.5px" color="quiet" lineHeight="1.5">
      <Text mb="8px">
        {t(
          "Somebody else has points of this movement: a motion laboratory, another program, a colleague with patience. Theirs are taken for the truth here, and what is counted is how often it lies inside the doubt that this program has stated. In 95 of 100 it should.",
        )}
      </Text>
      <Text mb="8px">
        {t(
          "Points in the picture are held against every landmark and reading. Of points in the world (C3D in mm or m) joint angles and the events of the feet are. Nothing is stored unless you take the points over.",
        )}
      </Text>
      <Head>{t("Give them this clip’s points")}</Head>
      <Flex gap="14px">
        <a href={`/api/clips/${clip.id}/keypoints.json`} download>
          {t("COCO keypoints")}
        </a>
        <a href={`/api/clips/${clip.id}/points.c3d`} download>
          C3D
        </a>
      </Flex>
    </Box>
  );
}

const share = (list: { inside: boolean }[]) =>
  t("{count} of {count2}", { count: list.filter((x) => x.inside).length, count2: list.length });

function Found({
  found,
  player,
  onTake,
  taken,
  trouble,
}: {
  found: Agreement;
  player: Player;
  onTake(): void;
  taken: boolean;
  trouble?: string;
}) {
  const n = found.joints.reduce((s, j) => s + j.frames, 0);
  const inside = n ? found.joints.reduce((s, j) => s + (j.inside * j.frames) / n, 0) : 0;
  const jump = (f: number) => {
    player.pause();
    player.jump(f);
  };
  return (
    <Box mt="14px">
      <Flex gap="18px" mb="4px">
        <Figure name={t("points inside")} value={n ? `${fixed(inside, 0)} %` : "none"} />
        <Figure name={t("numbers inside")} value={found.angles.length ? share(found.angles) : "none"} />
        <Figure name={t("moments inside")} value={found.moments.length ? share(found.moments) : t("none told")} />
      </Flex>
      <Text fontSize="11.5px" color="quiet" mb="10px">
        {t("inside the doubt that is stated here; 95 of 100 should be{which}", {
          which:
            found.units === "px"
              ? t(" ({frames} frames with points of both)", { frames: found.frames })
              : t("; points of the world in {units}", { units: found.units }),
        })}
      </Text>
      {found.angles.length > 0 && (
        <>
          <Head right={<Columns left="ours" right="theirs" />}>{t("Numbers")}</Head>
          {found.angles.map((a) => (
            <Row key={a.reading} out={!a.inside} onClick={() => jump(a.frame)} data={{ "data-angle": a.reading }}>
              <Text flex="1" lineHeight="1.25">
                {a.name}
                <Text as="span" display="block" fontSize="11.5px" color="quiet">
                  {a.where}
                </Text>
              </Text>
              <Text whiteSpace="nowrap">
                {digits(a.own.value, a.own.half95)} ±{digits(a.own.half95, a.own.half95)}
              </Text>
              <Text w="62px" textAlign="right" fontWeight="650" color={a.inside ? undefined : "clay"}>
                {digits(a.theirs, a.own.half95)} {a.unit}
              </Text>
            </Row>
          ))}
        </>
      )}
      {found.moments.length > 0 && (
        <>
          <Head right={<Columns left={t("our doubt")} right={t("theirs later by")} />}>{t("Moments")}</Head>
          {found.moments.map((m, i) => (
            <Row key={i} out={!m.inside} onClick={() => jump(m.frame)}>
              <Text flex="1">{m.name}</Text>
              <Text whiteSpace="nowrap" color="quiet">
                {t("±{half95} ms", { half95: fixed(m.half95, 0) })}
              </Text>
              <Text w="62px" textAlign="right" fontWeight="650" color={m.inside ? undefined : "clay"}>
                {t("{minus} ms", { minus: written((m.later > 0 ? "+" : "") + m.later.toFixed(0)) })}
              </Text>
            </Row>
          ))}
        </>
      )}
      {found.joints.length > 0 && (
        <>
          <Head right={<Columns left={t("px apart")} right={t("inside")} />}>{t("Points")}</Head>
          {found.joints.map((j) => (
            <Row key={j.landmark} out={j.inside < 85}>
              <Text flex="1">{j.name}</Text>
              <Text whiteSpace="nowrap" color="quiet">
                {fixed(j.middle, 1)}
                {j.cm !== undefined && t(" ({cm} cm)", { cm: fixed(j.cm, 1) })}
                {t(", stated {stated}", { stated: fixed(j.stated, 0) })}
              </Text>
              <Text w="48px" textAlign="right" fontWeight="650" color={j.inside < 85 ? "clay" : undefined}>
                {fixed(j.inside, 0)} %
              </Text>
            </Row>
          ))}
        </>
      )}
      {found.units === "px" && (
        <Box borderTop="1px solid" borderColor="seam" mt="12px" pt="10px">
          {taken ? (
            <Text fontSize="12px">
              {t("Taken over as a draft. Points that a hand has placed stayed; undo is in the Bench.")}
            </Text>
          ) : (
            <Button size="xs" variant="outline" onClick={onTake}>
              {t("Take these points over as a draft")}
            </Button>
          )}
          {trouble && (
            <Notice tone="clay" mt="8px">
              {trouble}
            </Notice>
          )}
        </Box>
      )}
    </Box>
  );
}

const Columns = ({ left, right }: { left: string; right: string }) => (
  <Flex gap="14px" fontSize="11px" color="quiet">
    <span>{left}</span>
    <span>{right}</span>
  </Flex>
);

function Figure({ name, value }: { name: string; value: string }) {
  return (
    <Box>
      <Text fontSize="19px" fontWeight="700" lineHeight="1.1">
        {value}
      </Text>
      <Text fontSize="11.5px" color="quiet">
        {name}
      </Text>
    </Box>
  );
}

function Row({
  out,
  onClick,
  data,
  children,
}: {
  out: boolean;
  onClick?(): void;
  data?: Record<string, string>;
  children: ReactNode;
}) {
  return (
    <Flex
      {...data}
      gap="10px"
      align="baseline"
      py="3px"
      px="6px"
      mx="-6px"
      fontSize="12.5px"
      borderTop="1px solid"
      borderColor="seam"
      borderLeft="2px solid"
      borderLeftColor={out ? "clay" : "transparent"}
      cursor={onClick ? "pointer" : undefined}
      _hover={onClick ? { bg: "raised" } : undefined}
      onClick={onClick}
    >
      {children}
    </Flex>
  );
}
