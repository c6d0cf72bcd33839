import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { memo, type ReactNode } from "react";
import type { Checkpoint, Edit, Model, Reading, Report } from "../../../api/client";
import { Gauge, goal, Num, show, tolerated, verdictColour } from "../../../ui/numbers";
import { Head, Dot } from "../../../ui/parts";
import { useTrust } from "../../eye/api";
import { useOpen } from "../context";
import { Steps } from "./steps";
import { cssColor } from "../../../ui/color";
import { useDraft } from "../../../ui/draft";
import { t } from "../../../texts/texts";
import { word } from "../../../texts/words";
import { WhatIsDoubt } from "../../../ui/doubt";
import { Still } from "./still";
import { farOf } from "../sides";

type Props = {
  model: Model;
  report: Report;
  flags: Record<string, number>;
  chosen: string;
  lit: string | null;
  onChoose(position: string): void;
  onLight(reading: Reading | null): void;
  edit(...e: Edit[]): void;
  still: ReactNode;
  viewOf(clip?: string): string;
};

/** foundSays is how sure a moment is that the tool has found, and within what. */
const foundSays = (p?: Report["positions"][number]) =>
  p?.source === "clip"
    ? t(", flagged in another clip{which}", { which: p.sd ? t(" (±{sd} ms)", { sd: Math.round(1960 * p.sd) }) : "" })
    : p?.source !== "tool"
      ? ""
      : t(", found ({confidence} % sure{which})", {
          confidence: Math.round(100 * (p.confidence ?? 0)),
          which: p.sd ? t(", ±{sd} ms", { sd: Math.round(1960 * p.sd) }) : "",
        });

/** NumbersPanel: the steps of a run, and what was read at the key position looked at. */
export function NumbersPanel() {
  const { model, evaluation, state, player, position, choose, light, edit, sheet, clip } = useOpen();
  const report = evaluation.report!;
  return (
    <>
      {model.repeat && !report.throw && <Steps report={report} player={player} />}
      <Numbers
        model={model}
        report={report}
        flags={evaluation.flags}
        chosen={position}
        lit={state.reading}
        onChoose={choose}
        onLight={light}
        edit={edit}
        still={
          clip &&
          evaluation.flags[position] !== undefined && (
            <Still
              clip={clip}
              frame={evaluation.flags[position]}
              points={evaluation.points}
              readings={report.readings.filter((r) => r.evidence?.frame === evaluation.flags[position])}
              model={model}
              far={farOf(clip)}
              name={model.positions.find((p) => p.id === position)?.name ?? ""}
            />
          )
        }
        viewOf={(clip) => sheet.clips.find((c) => c.id === clip)?.view ?? ""}
      />
    </>
  );
}

/** Numbers lists the checkpoints of a key position, each with value, doubt, band
 * and verdict; what cannot be measured is offered as the coach's own mark. */
function Numbers({ model, report, flags, chosen, lit, onChoose, onLight, edit, still, viewOf }: Props) {
  const readings = new Map(report.readings.map((r) => [r.id, r]));
  const at = (position: string) => {
    const group = model.positions.find((p) => p.id === position)?.group;
    return model.checkpoints.filter((c) => c.position === position || (group && c.position === group));
  };
  const position = model.positions.find((p) => p.id === chosen) ?? model.positions[0];
  const inClip = new Set(report.positions.map((p) => p.id));
  const tones = model.positions.map((p) => {
    if (!inClip.has(p.id)) return "";
    const list = at(p.id).map((c) => readings.get(c.id)!.verdict);
    return list.includes("missed") ? "clay" : list.includes("open") ? "amber" : list.includes("met") ? "moss" : "quiet";
  });
  return (
    <Box>
      <Chips model={model} tones={tones.join(" ")} flags={flags} chosen={chosen} onChoose={onChoose} />
      <Head
        tone="chalk"
        right={
          <Text fontSize="11.5px" color="quiet">
            {flags[chosen] === undefined
              ? t("not flagged")
              : t("frame {flags}{foundSays}", {
                  flags: flags[chosen],
                  foundSays: foundSays(report.positions.find((p) => p.id === chosen)),
                })}
          </Text>
        }
      >
        {position.name}
      </Head>
      <Text fontSize="12px" color="quiet" mt="-4px" mb="6px">
        {position.hint}
      </Text>
      {at(chosen).map((cp) => (
        <Row
          key={cp.id}
          cp={cp}
          r={readings.get(cp.id)!}
          lit={lit === cp.id}
          onLight={onLight}
          edit={edit}
          view={viewOf(readings.get(cp.id)!.clip)}
        />
      ))}
      {at(chosen).length === 0 && (
        <Text color="quiet" fontSize="12px">
          {t("No checkpoint here; it only separates phases.")}
        </Text>
      )}
      {still}
      {at(chosen).some((cp) => readings.get(cp.id)!.value) && (
        <Box mt="10px">
          <WhatIsDoubt />
        </Box>
      )}
    </Box>
  );
}

const Chips = memo(function Chips({
  model,
  tones,
  flags,
  chosen,
  onChoose,
}: {
  model: Model;
  tones: string;
  flags: Record<string, number>;
  chosen: string;
  onChoose(p: string): void;
}) {
  const tone = tones.split(" ");
  return (
    <Flex wrap="wrap" gap="4px" mb="10px">
      {model.positions.map(
        (p, i) =>
          tone[i] && (
            <Button
              key={p.id}
              size="xs"
              variant="outline"
              px="8px"
              h="24px"
              fontSize="11.5px"
              bg={p.id === chosen ? "raised" : undefined}
              borderColor={p.id === chosen ? "chalk" : "seam"}
              color={flags[p.id] === undefined ? "quiet" : "chalk"}
              aria-pressed={p.id === chosen}
              onClick={() => onChoose(p.id)}
              title={`${p.name}: ${p.hint}`}
              data-position={p.id}
            >
              <Dot tone={tone[i]} w="7px" h="7px" borderRadius={tone[i] === "clay" ? "1px" : "full"} />
              {p.short}
            </Button>
          ),
      )}
    </Flex>
  );
});

// Rows are plain elements: they are drawn anew at every move of a dragged joint.
const Row = memo(function Row({
  cp,
  r,
  lit,
  onLight,
  edit,
  view,
}: {
  cp: Checkpoint;
  r: Reading;
  lit: boolean;
  onLight: Props["onLight"];
  edit: Props["edit"];
  view: string;
}) {
  const mark = r.source !== "measure" || (!r.value && cp.question);
  const light = () => onLight(lit ? null : r);
  return (
    <div className="reading" data-reading={cp.id} data-verdict={r.verdict} data-lit={lit || undefined} onClick={light}>
      <div
        className="line"
        role="button"
        tabIndex={0}
        aria-expanded={lit}
        onKeyDown={(e) => e.key === "Enter" && light()}
      >
        <span className="name">
          {cp.name}
          {r.side && <small> {r.side}</small>}
          {(r.repetitions?.length ?? 0) > 1 && <small> {t("mean of {count}", { count: r.repetitions!.length })}</small>}
          {r.both && (
            <small data-both title={t("The lines of sight of two cameras meet in it: surer than either alone")}>
              {" "}
              {t("· both cameras")}
            </small>
          )}
          {r.clip && (
            <small data-from={r.clip} title={t("Read from the {view} clip; a click opens it there", { view })}>
              {" "}
              · {view}
            </small>
          )}
        </span>
        {r.value ? <Num v={r.value} unit={cp.unit} /> : <small>–</small>}
        <Gauge cp={cp} r={r} />
        <span className="verdict" style={{ color: cssColor(verdictColour[r.verdict]) }}>
          {word(r.verdict)}
        </span>
      </div>
      {mark && cp.question && <Asked cp={cp} r={r} edit={edit} />}
      {lit && (r.repetitions?.length ?? 0) > 1 && (
        <p>
          {r
            .repetitions!.map((x) => `${x.foot ? x.foot[0].toUpperCase() + " " : ""}${show(x.value, cp.unit).value}`)
            .join("  ·  ")}
        </p>
      )}
      {lit && r.value && (r.also?.length ?? 0) > 0 && (
        <p>
          {t("Also {also}.", {
            also: r
              .also!.map((x) => t("{value} {half} from the {view}", { ...show(x.value, cp.unit), view: word(x.view) }))
              .join(", "),
          })}
        </p>
      )}
      {(r.verdict === "open" || lit) && (
        <p>
          {r.reason && `${r.reason[0].toUpperCase()}${r.reason.slice(1)}. `}
          {r.remedy && t("What would decide it: {remedy}. ", { remedy: r.remedy })}
          {lit &&
            `${cp.info ? t("Information") : t("Wanted")}: ${[goal(cp), tolerated(cp)].filter(Boolean).join(", ")} (${{ trade: t("common practice"), literature: t("from the literature, by memory"), definition: t("by rule") }[cp.basis]}).`}
        </p>
      )}
    </div>
  );
});

const answers = ["yes", "partly", "no"] as const;

/** Asked: the coach's own answer where nothing is measured, with a note. */
function Asked({ cp, r, edit }: { cp: Checkpoint; r: Reading; edit: Props["edit"] }) {
  const now = r.source === "coach" ? answers.find((a) => a === r.said) : undefined;
  const trust = useTrust(useOpen().model.id);
  const [note, setNote] = useDraft(r.note ?? "");
  return (
    <Box mt="3px" onClick={(e) => e.stopPropagation()} onKeyDown={(e) => e.stopPropagation()}>
      <Text fontSize="11.5px" color="quiet">
        {cp.question}
      </Text>
      <Flex gap="4px" align="center" mt="2px">
        {answers.map((a) => (
          <Button
            key={a}
            size="2xs"
            px="9px"
            variant={now === a ? "solid" : "outline"}
            data-answer={a}
            onClick={() =>
              edit({ kind: "answer", key: cp.id, value: now === a ? null : { answer: a, note, ...trust.of(a) } })
            }
          >
            {word(a)}
          </Button>
        ))}
        {now && (
          <Input
            flex="1"
            size="xs"
            h="24px"
            value={note}
            placeholder={t("a note")}
            aria-label={t("Note on {name}", { name: cp.name })}
            maxLength={300}
            onChange={(e) => setNote(e.target.value)}
            onBlur={() =>
              note !== (r.note ?? "") &&
              edit({ kind: "answer", key: cp.id, value: { answer: now, note, ...trust.of(now) } })
            }
          />
        )}
      </Flex>
      {trust.at && now && now !== "partly" && (
        <Text fontSize="11px" color="quiet" mt="2px" data-testid="by-eye">
          {t("Your eye here: such a “{answer}” is right in {percent} of 100 (eye training, {n} answers).", {
            answer: word(now),
            percent: Math.round(100 * (now === "no" ? trust.at.there : trust.at.not)),
            n: trust.at.n,
          })}
        </Text>
      )}
    </Box>
  );
}
