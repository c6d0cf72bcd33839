import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { useState } from "react";
import type { Finding, Model } from "../../../api/client";
import { goal, show } from "../../../ui/numbers";
import { Head, Notice } from "../../../ui/parts";
import { Modal } from "../../../ui/modal";
import { useOpen } from "../context";
import { shown } from "../findings";
import { Cues, Given } from "./advice";
import { Ghost } from "./ghost";
import { t } from "../../../texts/texts";
import { written } from "../../../ui/written";

/** FindingsPanel: what to keep, the row of causes, each fault with its evidence, and
 * the one cue that comes of it. */
export function FindingsPanel() {
  const w = useOpen();
  const { model, work, edit, dispatch, sheet } = w;
  const report = w.evaluation.report!;
  const { list, setAside, open: finding } = shown(w);
  const [ghost, setGhost] = useState("");
  const onLight = w.light;
  const onFinding = (fault: string) => dispatch({ type: "fault", id: fault });
  const fault = (id: string) => model.faults.find((f) => f.id === id)!;
  const readings = new Map(report.readings.map((r) => [r.id, r]));
  const cp = (id: string) => model.checkpoints.find((c) => c.id === id)!;
  const position = (id: string) =>
    (model.positions.find((p) => p.id === id) ?? model.repeat?.positions.find((p) => p.id === id))!;
  const likely = report.possible.filter((f) => f.certainty === "likely");
  const undecided = report.possible.filter((f) => f.certainty === "open");
  const says = (id: string) => {
    const r = readings.get(id)!;
    const c = cp(id);
    const where = position(c.position).short;
    if (!r.value)
      return t("{name}, {where}: your answer{which}", { name: c.name, where, which: r.note ? `, “${r.note}”` : "" });
    const s = show(r.value, c.unit);
    const from = r.clip ? t(", {view} clip", { view: sheet.clips.find((k) => k.id === r.clip)?.view ?? "other" }) : "";
    return t("{name}, {where}{from}: {value}{unit} {half} (wanted {c})", {
      name: c.name,
      where,
      from,
      value: s.value,
      unit: s.unit && " " + s.unit,
      half: s.half,
      c: goal(c),
    });
  };
  return (
    <Box>
      <Head tone="moss">{t("Keep")}</Head>
      {report.strengths.length === 0 && (
        <Text color="quiet" fontSize="12px">
          {t("Nothing is met yet. Flag positions, place points, answer what is asked.")}
        </Text>
      )}
      <Box as="ul" mb="12px" display="grid" gap="1px">
        {report.strengths.slice(0, 6).map((k) => (
          <li key={k.reading}>
            <Flex
              as="button"
              gap="8px"
              w="100%"
              minH="24px"
              textAlign="left"
              align="center"
              cursor="pointer"
              _hover={{ color: "moss" }}
              onClick={() => onLight(readings.get(k.reading)!)}
            >
              <Text as="span" color="moss">
                ✓
              </Text>
              {k.text}
            </Flex>
          </li>
        ))}
      </Box>

      {list.length === 0 ? (
        <Text color="quiet" fontSize="12px">
          {t("No fault is shown by what is measured and answered so far.")}
        </Text>
      ) : (
        <>
          <Head tone="clay">{t("First cause")}</Head>
          <Box as="ol" listStyleType="none" mb="10px" data-testid="chain">
            {chain(list).map(({ f, depth }, i) => {
              const said = work.findings[f.fault];
              return (
                <Flex as="li" key={f.fault} align="center" pl={`${Math.min(depth, 3) * 18}px`}>
                  {depth > 0 && (
                    <Text as="span" color="quiet" w="18px" flexShrink={0} ml="-18px" aria-label={t("leads to")}>
                      ↳
                    </Text>
                  )}
                  <Button
                    flex="1"
                    minW="0"
                    size="xs"
                    h="auto"
                    minH="32px"
                    mb="4px"
                    px="10px"
                    gap="8px"
                    justifyContent="flex-start"
                    textAlign="left"
                    borderRadius="6px"
                    variant="outline"
                    data-finding={f.fault}
                    aria-pressed={f === finding}
                    borderColor={i === 0 ? "clay" : "seam"}
                    borderWidth={i === 0 ? "2px" : "1px"}
                    bg={f === finding ? "raised" : undefined}
                    opacity={said === "refused" ? 0.45 : 1}
                    onClick={() => onFinding(f.fault)}
                  >
                    <Text
                      as="span"
                      flex="1"
                      whiteSpace="normal"
                      lineHeight="1.25"
                      fontWeight="600"
                      textDecoration={said === "refused" ? "line-through" : undefined}
                    >
                      {said === "accepted" ? "✓ " : ""}
                      {fault(f.fault).name}
                    </Text>
                    <Text as="span" fontSize="11px" color="quiet" fontWeight="400" flexShrink={0}>
                      {phaseName(model, fault(f.fault).phase)}
                    </Text>
                  </Button>
                </Flex>
              );
            })}
          </Box>
        </>
      )}

      {setAside > 0 && (
        <Button
          size="xs"
          variant="ghost"
          mb="8px"
          px="0"
          color="quiet"
          onClick={() => dispatch({ type: "set-aside", shown: !w.state.setAside })}
        >
          {!w.state.setAside
            ? t("{setAside} that you refused for this athlete before", { setAside })
            : t("Hide what you refused before")}
        </Button>
      )}
      {finding && (
        <Box mb="12px">
          <Flex gap="8px" align="baseline">
            <Text fontWeight="650" flex="1">
              {fault(finding.fault).name}
            </Text>
            <Text
              fontSize="11.5px"
              color={!finding.own && finding.certainty === "certain" ? "clay" : "quiet"}
              data-testid="sure"
            >
              {finding.own ? t("seen by you") : finding.certainty}
              {finding.excess &&
                t(", {minus}{unit} over", {
                  minus: written(finding.excess.by.toFixed(finding.excess.by < 10 ? 1 : 0)),
                  unit: unitOf(cp(finding.excess.reading).unit),
                })}
            </Text>
          </Flex>
          {finding.progress && (
            <Text fontSize="12px" color="quiet">
              {t("In {shown} of {of}, {n}.", {
                shown: finding.progress.shown,
                of: finding.progress.of,
                n: { growing: t("and growing"), same: t("about the same each time"), fading: t("and fading") }[
                  finding.progress.trend
                ],
              })}
            </Text>
          )}
          <Text fontSize="12px" color="quiet" mb="4px">
            {fault(finding.fault).effect}
            {finding.effects.length > 0 &&
              t(" These should go with it: {effects}.", {
                effects: finding.effects.map((l) => fault(l).short).join(", "),
              })}
          </Text>
          {fault(finding.fault).strength && (
            <Notice mb="4px">
              <Text>{fault(finding.fault).strength}</Text>
            </Notice>
          )}
          {finding.readings.map((id) => (
            <Flex
              key={id}
              as="button"
              w="100%"
              gap="6px"
              textAlign="left"
              fontSize="12px"
              py="2px"
              cursor="pointer"
              _hover={{ color: "clay" }}
              data-evidence={id}
              onClick={() => onLight(readings.get(id)!)}
            >
              <Text color="clay">◆</Text>
              <Text>{says(id)}</Text>
            </Flex>
          ))}
          <Flex gap="6px" mt="6px">
            {(["accepted", "refused"] as const).map((v) => {
              const on = work.findings[finding.fault] === v;
              return (
                <Button
                  key={v}
                  size="xs"
                  variant={on && v === "accepted" ? "solid" : "outline"}
                  title={v === "accepted" ? t("Accept (A)") : t("Refuse (X)")}
                  onClick={() => edit({ kind: "finding", key: finding.fault, value: on ? null : v })}
                >
                  {v === "accepted" ? (on ? t("Accepted") : t("Accept")) : on ? t("Refused") : t("Refuse")}
                </Button>
              );
            })}
            <Box flex="1" />
            <Button size="xs" variant="ghost" data-testid="to-ghost" onClick={() => setGhost(finding.fault)}>
              {t("As it should be")}
            </Button>
          </Flex>
        </Box>
      )}
      <Modal
        title={t("{name}, taken out", { name: ghost ? fault(ghost).name : "" })}
        wide
        open={!!ghost}
        onClose={() => setGhost("")}
      >
        {ghost && <Ghost attempt={sheet.attempt.id} fault={ghost} />}
      </Modal>

      {finding && work.findings[finding.fault] === "accepted" && (
        <Cues key={finding.fault} model={model} fault={finding.fault} work={work} young={sheet.child} edit={edit} />
      )}
      {Object.keys(work.advice).length > 0 && <Given model={model} report={report} work={work} edit={edit} />}

      {likely.length > 0 && (
        <Box mt="12px" data-testid="likely">
          <Head tone="amber">{t("Likely, not certain")}</Head>
          {likely.map((f) => (
            <Flex key={f.fault} gap="8px" align="center" fontSize="12px" py="1px">
              <Text flex="1">
                {fault(f.fault).name}: {f.readings.map(says)[0]}
              </Text>
              {work.findings[f.fault] !== "accepted" && (
                <Button
                  size="xs"
                  h="20px"
                  variant="outline"
                  onClick={() => edit({ kind: "finding", key: f.fault, value: "accepted" })}
                >
                  {t("Confirm")}
                </Button>
              )}
            </Flex>
          ))}
        </Box>
      )}
      <NativeSelect.Root size="xs" mt="12px">
        <NativeSelect.Field
          aria-label={t("Add a fault that you see")}
          value=""
          bg="raised"
          borderColor="seam"
          onChange={(e) => {
            edit({ kind: "finding", key: e.target.value, value: "accepted" });
            onFinding(e.target.value);
          }}
        >
          <option value="">{t("add a fault that you see …")}</option>
          {model.faults
            .filter((f) => !list.some((x) => x.fault === f.id))
            .map((f) => (
              <option key={f.id} value={f.id}>
                {f.name}
              </option>
            ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {undecided.length > 0 && (
        <Box mt="12px">
          <Head>{t("Not decidable from this clip")}</Head>
          {undecided.map((f) => (
            <Text key={f.fault} fontSize="12px" color="quiet">
              {t("{name}: {readings} would decide.", {
                name: fault(f.fault).name,
                readings: f.readings.map((id) => readings.get(id)?.remedy).filter(Boolean)[0] ?? t("more points"),
              })}
            </Text>
          ))}
        </Box>
      )}
    </Box>
  );
}

/** chain puts what follows from a fault below it, each fault once, causes in the order given. */
function chain(list: Finding[], of = list, depth = 0, seen = new Set<string>()): { f: Finding; depth: number }[] {
  const first = depth > 0 ? of : list.filter((f) => !list.some((c) => c !== f && c.effects.includes(f.fault)));
  const out = first.flatMap((f) => {
    if (seen.has(f.fault)) return [];
    seen.add(f.fault);
    const below = list.filter((x) => f.effects.includes(x.fault));
    return [{ f, depth }, ...chain(list, below, depth + 1, seen)];
  });
  // Faults that cause each other have no first: they stand as they are.
  return depth > 0 ? out : [...out, ...list.filter((f) => !seen.has(f.fault)).map((f) => ({ f, depth: 0 }))];
}

const phaseName = (model: Model, id: string) =>
  (model.phases.find((p) => p.id === id) ?? model.repeat?.phases.find((p) => p.id === id))?.name ?? id;

const unitOf = (unit: string) => (unit === "°" ? "°" : unit && " " + unit);
