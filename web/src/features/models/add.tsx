import { Box, Button, Flex, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import type { Checkpoint, Failure, Model } from "../../api/client";
import { useAthletes } from "../athlete/api";
import { Notice, Panel } from "../../ui/parts";
import { readNumber } from "../../ui/decimal";
import { t } from "../../texts/texts";

// What a team adds to a model: bands for some only, checkpoints, faults.

export type For = { under?: number; years?: number; athlete?: string; variant?: string };

const Choice = ({
  label,
  value,
  onValue,
  children,
}: {
  label: string;
  value: string;
  onValue(v: string): void;
  children: ReactNode;
}) => (
  <Box flex="1" minW="0">
    <Text fontSize="11px" color="quiet">
      {label}
    </Text>
    <NativeSelect.Root size="xs">
      <NativeSelect.Field
        value={value}
        bg="raised"
        borderColor="seam"
        aria-label={label}
        onChange={(e) => onValue(e.target.value)}
      >
        {children}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  </Box>
);

const Line = ({
  label,
  value,
  onValue,
  hint,
}: {
  label: string;
  value: string;
  onValue(v: string): void;
  hint?: string;
}) => (
  <Box flex="1" minW="0">
    <Text fontSize="11px" color="quiet">
      {label}
    </Text>
    <Input
      size="2xs"
      h="26px"
      value={value}
      placeholder={hint}
      aria-label={label}
      maxLength={300}
      onChange={(e) => onValue(e.target.value)}
    />
  </Box>
);

/** Whom chooses for whom a changed band is. */
export function Whom({ style, value, onValue }: { style?: Named; value: For; onValue(f: For): void }) {
  const athletes = useAthletes();
  const now = value.variant
    ? t("style")
    : value.years
      ? t("years {years}", { years: value.years })
      : (value.athlete ?? (value.under ? String(value.under) : ""));
  return (
    <Flex mb="6px" maxW="340px">
      <Choice
        label={t("These bands are for")}
        value={now}
        onValue={(v) =>
          onValue(
            v === ""
              ? {}
              : v === "style"
                ? { variant: style!.id }
                : v.startsWith("years ")
                  ? { years: Number(v.slice(6)) }
                  : /^\d+$/.test(v)
                    ? { under: Number(v) }
                    : { athlete: v },
          )
        }
      >
        <option value="">{t("everybody")}</option>
        {style && <option value="style">{t("the style “{name}” only", { name: style.name })}</option>}
        {[12, 14, 16, 18, 20].map((a) => (
          <option key={a} value={a}>
            {t("athletes under {a}", { a })}
          </option>
        ))}
        {[1, 2].map((n) => (
          <option key={n} value={`years ${n}`}>
            {n === 1
              ? t("who is in the first year of the event")
              : t("who is in the first {n} years of the event", { n })}
          </option>
        ))}
        {athletes.data?.map((a) => (
          <option key={a.id} value={a.id}>
            {t("{name} only", { name: a.name })}
          </option>
        ))}
      </Choice>
    </Flex>
  );
}

/** Frame is a form with its reason and what is still missing. */
function Frame({
  title,
  missing,
  busy,
  error,
  onLeave,
  onAdd,
  children,
}: {
  title: string;
  missing: string;
  busy: boolean;
  error: Error | null;
  onLeave(): void;
  onAdd(reason: string): void;
  children: ReactNode;
}) {
  const [reason, setReason] = useState("");
  return (
    <Panel p="10px 14px" mb="8px" border="1px solid" borderColor="clay">
      <Text fontWeight="650" mb="6px">
        {title}
      </Text>
      <Flex direction="column" gap="6px">
        {children}
        <Line
          label={t("Reason of the addition")}
          value={reason}
          onValue={setReason}
          hint={t("It stays beside the version.")}
        />
      </Flex>
      {error && (
        <Notice tone="clay" mt="8px">
          <Text>{[error.message, ...((error as Failure).fields ?? [])].join(" ")}</Text>
        </Notice>
      )}
      <Flex gap="8px" mt="8px" align="center">
        <Text flex="1" fontSize="11.5px" color="amber">
          {missing || (reason.trim().length < 3 ? t("Say why.") : "")}
        </Text>
        <Button size="xs" variant="ghost" onClick={onLeave}>
          {t("Leave")}
        </Button>
        <Button
          size="xs"
          loading={busy}
          disabled={!!missing || reason.trim().length < 3}
          onClick={() => onAdd(reason.trim())}
        >
          {t("Add")}
        </Button>
      </Flex>
    </Panel>
  );
}

const slug = (name: string, taken: string[]) => {
  const base =
    "own_" +
    (name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "_")
      .replace(/^_|_$/g, "")
      .slice(0, 24) || "x");
  let id = base;
  for (let n = 2; taken.includes(id); n++) id = `${base}_${n}`;
  return id;
};

type Named = { id: string; name: string };

/** AddCheckpoint: a question for the eye, or a measure that the model has, at another
 * position or with another band. */
export function AddCheckpoint({
  model,
  positions,
  busy,
  error,
  onLeave,
  onAdd,
}: {
  model: Model;
  positions: Named[];
  busy: boolean;
  error: Error | null;
  onLeave(): void;
  onAdd(c: Checkpoint, reason: string): void;
}) {
  const [name, setName] = useState("");
  const [at, setAt] = useState(positions[0].id);
  const [like, setLike] = useState("");
  const [question, setQuestion] = useState("");
  const [lo, setLo] = useState("");
  const [hi, setHi] = useState("");
  const measures = model.checkpoints.filter((c) => c.measure.kind !== "answer");
  const from = measures.find((c) => c.id === like);
  const [a, b] = [readNumber(lo), readNumber(hi)];
  const missing = !name.trim()
    ? t("Give it a name.")
    : !from && !question.trim()
      ? t("Ask a question that is answered with yes, partly or no.")
      : Number.isNaN(a) || Number.isNaN(b)
        ? t("Give numbers.")
        : a !== undefined && b !== undefined && a >= b
          ? t("The lower end must lie below the upper one.")
          : "";
  return (
    <Frame
      title={t("A checkpoint of your own")}
      missing={missing}
      busy={busy}
      error={error}
      onLeave={onLeave}
      onAdd={(reason) =>
        onAdd(
          {
            id: slug(
              name,
              model.checkpoints.map((c) => c.id),
            ),
            name: name.trim(),
            position: at,
            measure: from ? from.measure : { kind: "answer" },
            unit: from ? from.unit : "",
            band: from ? { lo: a, hi: b } : {},
            basis: "trade",
            ...(from?.views ? { views: from.views } : {}),
            ...(question.trim() ? { question: question.trim() } : {}),
          },
          reason,
        )
      }
    >
      <Flex gap="8px">
        <Line label={t("Name of the checkpoint")} value={name} onValue={setName} />
        <Choice label={t("At")} value={at} onValue={setAt}>
          {positions.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Choice>
      </Flex>
      <Choice label={t("Measured")} value={like} onValue={setLike}>
        <option value="">{t("by your eye: a question")}</option>
        {measures.map((c) => (
          <option key={c.id} value={c.id}>
            {t("like “{name}”", { name: c.name })}
          </option>
        ))}
      </Choice>
      {from && (
        <Flex gap="8px">
          <Line label={t("from, {unit}", { unit: from.unit })} value={lo} onValue={setLo} hint={t("open")} />
          <Line label={t("to, {unit}", { unit: from.unit })} value={hi} onValue={setHi} hint={t("open")} />
        </Flex>
      )}
      <Line
        label={from ? t("Question where it cannot be measured (may be empty)") : t("Question")}
        value={question}
        onValue={setQuestion}
      />
    </Frame>
  );
}

/** AddFault: what shows it, what it comes from, what is said and done about it. */
export function AddFault({
  model,
  phases,
  busy,
  error,
  onLeave,
  onAdd,
}: {
  model: Model;
  phases: Named[];
  busy: boolean;
  error: Error | null;
  onLeave(): void;
  onAdd(f: Model["faults"][number], reason: string): void;
}) {
  const [name, setName] = useState("");
  const [phase, setPhase] = useState(phases[0].id);
  // What shows a fault is a number with a band, or a question.
  const banded = (c: Checkpoint) => c.measure.kind !== "answer" && (c.band.lo !== undefined || c.band.hi !== undefined);
  const showing = model.checkpoints.filter((c) => banded(c) || c.question);
  const [by, setBy] = useState(showing[0].id);
  const [picked, setHow] = useState("either");
  const [because, setBecause] = useState("");
  const [effect, setEffect] = useState("");
  const [words, setWords] = useState("");
  const [backfire, setBackfire] = useState("");
  const [drill, setDrill] = useState("");
  const [dose, setDose] = useState("");
  const [feel, setFeel] = useState("");
  const cp = showing.find((c) => c.id === by)!;
  const measured = banded(cp);
  const how = !measured ? "no" : picked === "no" && !cp.question ? "either" : picked;
  const rule =
    how === "no" ? { reading: by, answered_no: true } : { reading: by, outside: how as "above" | "below" | "either" };
  const missing = [
    [name, "a name"],
    [effect, t("what it leads to")],
    [words, t("words for the cue")],
    [backfire, t("what to say when the cue backfires")],
    [drill, "a drill"],
    [dose, t("its dose")],
    [feel, t("what it should feel like")],
  ].find(([v]) => !v.trim())?.[1];
  return (
    <Frame
      title={t("A fault of your own")}
      missing={missing ? t("Give {missing}.", { missing }) : ""}
      busy={busy}
      error={error}
      onLeave={onLeave}
      onAdd={(reason) =>
        onAdd(
          {
            id: slug(
              name,
              model.faults.map((f) => f.id),
            ),
            name: name.trim(),
            short: name.trim().slice(0, 18),
            phase,
            target: by,
            when: rule,
            ...(because ? { because: [because] } : {}),
            effect: effect.trim(),
            cues: [{ focus: "outward", words: words.trim(), backfire: backfire.trim() }],
            drills: [{ name: drill.trim(), dose: { says: dose.trim() }, feel: feel.trim() }],
          },
          reason,
        )
      }
    >
      <Flex gap="8px">
        <Line label={t("Name of the fault")} value={name} onValue={setName} />
        <Choice label={t("Made in")} value={phase} onValue={setPhase}>
          {phases.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Choice>
      </Flex>
      <Flex gap="8px">
        <Choice label={t("Shown by")} value={by} onValue={setBy}>
          {showing.map((c) => (
            <option key={c.id} value={c.id}>
              {c.name}
            </option>
          ))}
        </Choice>
        <Choice label={t("when it is")} value={how} onValue={setHow}>
          {cp.question && <option value="no">{t("answered no")}</option>}
          {measured && <option value="above">{t("above its band")}</option>}
          {measured && <option value="below">{t("below its band")}</option>}
          {measured && <option value="either">{t("outside its band")}</option>}
        </Choice>
        <Choice label={t("Comes from")} value={because} onValue={setBecause}>
          <option value="">{t("nothing before it")}</option>
          {model.faults.map((f) => (
            <option key={f.id} value={f.id}>
              {f.name}
            </option>
          ))}
        </Choice>
      </Flex>
      <Line label={t("What it leads to")} value={effect} onValue={setEffect} />
      <Line
        label={t("Cue, outward")}
        value={words}
        onValue={setWords}
        hint={t("what the athlete should do to the world")}
      />
      <Line label={t("When the cue backfires")} value={backfire} onValue={setBackfire} />
      <Flex gap="8px">
        <Line label={t("Drill")} value={drill} onValue={setDrill} />
        <Line label={t("Sets and reps")} value={dose} onValue={setDose} hint={t("3 x 6")} />
        <Line label={t("Feel")} value={feel} onValue={setFeel} />
      </Flex>
    </Frame>
  );
}

/** AddStyle: a school or style of the event; its bands are changed while it is
 * chosen. */
export function AddStyle({
  model,
  busy,
  error,
  onLeave,
  onAdd,
}: {
  model: Model;
  busy: boolean;
  error: Error | null;
  onLeave(): void;
  onAdd(v: NonNullable<Model["variants"]>[number], reason: string): void;
}) {
  const [name, setName] = useState("");
  const [says, setSays] = useState("");
  return (
    <Frame
      title={t("A style of your own")}
      missing={!name.trim() ? t("Give it a name.") : !says.trim() ? t("Say what is different.") : ""}
      busy={busy}
      error={error}
      onLeave={onLeave}
      onAdd={(reason) =>
        onAdd(
          {
            id: slug(
              name,
              (model.variants ?? []).map((v) => v.id),
            ),
            name: name.trim(),
            says: says.trim(),
          },
          reason,
        )
      }
    >
      <Line label={t("Name of the style")} value={name} onValue={setName} />
      <Line label={t("What is different")} value={says} onValue={setSays} />
    </Frame>
  );
}

type Fault = Model["faults"][number];

/** AddWords: one more cue and its backfire note, or one more drill, for a fault. */
export function AddWords({
  kind,
  busy,
  error,
  onLeave,
  onAdd,
}: {
  kind: "cue" | "drill";
  busy: boolean;
  error: Error | null;
  onLeave(): void;
  onAdd(add: { cue?: Fault["cues"][number]; drill?: Fault["drills"][number] }, reason: string): void;
}) {
  const [a, setA] = useState("");
  const [b, setB] = useState("");
  const [c, setC] = useState("");
  const [focus, setFocus] = useState<"outward" | "inward">("outward");
  const missing = !a.trim() || !b.trim() || (kind === "drill" && !c.trim()) ? t("Fill in all of it.") : "";
  return (
    <Frame
      title={kind === "cue" ? t("A cue of your own") : t("A drill of your own")}
      missing={missing}
      busy={busy}
      error={error}
      onLeave={onLeave}
      onAdd={(reason) =>
        onAdd(
          kind === "cue"
            ? { cue: { focus, words: a.trim(), backfire: b.trim() } }
            : { drill: { name: a.trim(), dose: { says: b.trim() }, feel: c.trim() } },
          reason,
        )
      }
    >
      {kind === "cue" ? (
        <>
          <Flex gap="8px">
            <Line label={t("Words of the cue")} value={a} onValue={setA} />
            <Choice label={t("Focus")} value={focus} onValue={(v) => setFocus(v as typeof focus)}>
              <option value="outward">{t("outward")}</option>
              <option value="inward">{t("inward")}</option>
            </Choice>
          </Flex>
          <Line label={t("When it backfires")} value={b} onValue={setB} />
        </>
      ) : (
        <>
          <Line label={t("Name of the drill")} value={a} onValue={setA} />
          <Flex gap="8px">
            <Line label={t("Sets and reps of the drill")} value={b} onValue={setB} hint={t("3 x 6")} />
            <Line label={t("Feel of the drill")} value={c} onValue={setC} />
          </Flex>
        </>
      )}
    </Frame>
  );
}
