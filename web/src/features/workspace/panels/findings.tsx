import { Box, Button, Flex, NativeSelect, Text } from "@chakra-ui/react";
import { Fragment } from "react";
import type { Model } from "../../../api/client";
import { Causes, inOrder } from "../../models/causes";
import { goal, show } from "../../../ui/numbers";
import { Head, Notice } from "../../../ui/parts";
import { useOpen } from "../context";
import { shown } from "../findings";
import { Cues, Given } from "./advice";
import { t } from "../../../texts/texts";
import { written } from "../../../ui/written";

/** FindingsPanel: what to keep, the row of causes, each fault with its evidence, and
 * the one cue that comes of it. */
export function FindingsPanel() {
  const w = useOpen();
  const { model, work, edit, dispatch, sheet } = w;
  const report = w.evaluation.report!;
  const { list, setAside, open: finding } = shown(w);
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
          <Flex wrap="wrap" gap="4px" align="center" mb="8px" data-testid="chain">
            {list.map((f, i) => {
              const said = work.findings[f.fault];
              return (
                <Fragment key={f.fault}>
                  {i > 0 && (
                    <Text color="quiet" fontSize="12px">
                      {list[0].effects.includes(f.fault) ? "→" : "·"}
                    </Text>
                  )}
                  <Button
                    size="xs"
                    h="36px"
                    flexDirection="column"
                    gap="0"
                    lineHeight="1.2"
                    borderRadius="6px"
                    variant="outline"
                    data-finding={f.fault}
                    borderColor={i === 0 ? "clay" : "seam"}
                    borderWidth={i === 0 ? "2px" : "1px"}
                    bg={f === finding ? "raised" : undefined}
                    opacity={said === "refused" ? 0.45 : 1}
                    onClick={() => onFinding(f.fault)}
                  >
                    <Text as="span" fontWeight="600" textDecoration={said === "refused" ? "line-through" : undefined}>
                      {said === "accepted" ? "✓ " : ""}
                      {fault(f.fault).short}
                    </Text>
                    <Text as="span" fontSize="10px" color="quiet">
                      {phaseName(model, fault(f.fault).phase)}
                    </Text>
                  </Button>
                </Fragment>
              );
            })}
          </Flex>
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
      {list.length > 1 && (
        <Box mb="8px">
          <Causes
            model={model}
            faults={list.map((f) => fault(f.fault))}
            phases={inOrder(model)}
            open={list[0].fault}
            onOpen={onFinding}
          />
        </Box>
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
          </Flex>
        </Box>
      )}

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

const phaseName = (model: Model, id: string) =>
  (model.phases.find((p) => p.id === id) ?? model.repeat?.phases.find((p) => p.id === id))?.name ?? id;

const unitOf = (unit: string) => (unit === "°" ? "°" : unit && " " + unit);
