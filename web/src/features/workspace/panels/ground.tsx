import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { factsOf, type EventFacts } from "../../../api/events";
import { useRefresh } from "../../../api/topic";
import { useEffect, useState } from "react";
import type { Clip, ControlPoints, Report } from "../../../api/client";
import { lookAtCamera } from "../../../api/stream";
import { Modal } from "../../../ui/modal";
import { useAbortable } from "../../../ui/abortable";
import { Head, Notice } from "../../../ui/parts";
import { Player } from "../stage/player";
import { useOpenClip } from "../context";
import { onPicture } from "../../../ui/color";
import { readNumber } from "../../../ui/decimal";
import { t } from "../../../texts/texts";
import { fixed } from "../../../ui/written";

type Place = { name: string; along: number; right: number; line?: boolean; bar?: boolean };

/** usual is the template that an event asks for: its circle or its runway, else the lanes. */
const usual = (templates: { id: string; places: Place[] }[], { circle = 0, runway }: Partial<EventFacts>) =>
  templates.find(
    (template) => /-circle$/.test(template.id) && Math.abs(2 * Math.abs(template.places[0].right) - circle) < 0.01,
  )?.id ??
  (runway || "lanes");

/** GroundPanel: how the camera turned, where the ground lies, the strip of the run. */
export function GroundPanel() {
  const { clip, clipWork: work, report, player, edit, tool, evaluation, model } = useOpenClip();
  const templates = evaluation.catalogue!.templates;
  const [strip, setStrip] = useState(false);
  const marks = work.ground;
  const [chosen, setChosen] = useState(marks?.template ?? usual(templates, factsOf(model.id)));
  const template = templates.find((x) => x.id === chosen) ?? templates[0];
  const put = (m: ControlPoints | null) =>
    edit({ kind: "ground", clip: clip.id, key: "points", value: m && m.points.length ? m : null });
  const points = marks?.template === template.id ? marks.points : [];
  const [bar, setBar] = useState(points.find((q) => q.up)?.up);
  const place = ({ name, along, right, line, bar: onBar }: Place) =>
    tool({
      kind: "spot",
      says: `Click: ${name}`,
      done: (x, y) => {
        tool(null);
        const up = onBar ? bar : undefined;
        const mark = { name, along, right, frame: player.get().frame, x, y, line: line || undefined, up };
        put({ ...marks, template: template.id, points: [...points.filter((q) => q.name !== name), mark] });
      },
    });
  // Places that a tape gives, beside those of the template.
  const own = points.filter((q) => !q.rim && !template.places.some((x) => x.name === q.name));
  const height = (up: number | undefined) => {
    setBar(up);
    if (up && points.some((q) => q.up))
      put({ ...marks, template: template.id, points: points.map((q) => (q.up ? { ...q, up } : q)) });
  };
  const g = report?.ground;
  const radius = /-circle$/.test(template.id) ? Math.abs(template.places[0].right) : 0;
  // Anywhere on the rim: one click after the other until the coach leaves it.
  const rims = points.filter((q) => q.rim);
  const addRim = (have: ControlPoints["points"]) =>
    tool({
      kind: "spot",
      says: t("Click anywhere on the rim ({count} so far)", { count: have.filter((q) => q.rim).length }),
      done: (x, y) => {
        const more = [
          ...have,
          {
            name: t("rim {count}", { count: have.filter((q) => q.rim).length + 1 }),
            along: 0,
            right: 0,
            rim: radius,
            frame: player.get().frame,
            x,
            y,
          },
        ];
        put({ ...marks, template: template.id, points: more });
        addRim(more);
      },
    });
  return (
    <Box data-testid="ground">
      <Camera clip={clip} onStrip={() => setStrip(true)} steps={report?.steps.length ?? 0} />

      <Head tone="chalk">{t("Ground plane")}</Head>
      <Flex gap="4px" wrap="wrap" mb="6px">
        {templates.map((x) => (
          <Button
            key={x.id}
            size="xs"
            px="8px"
            variant="outline"
            bg={x.id === template.id ? "raised" : undefined}
            borderColor={x.id === template.id ? "chalk" : "seam"}
            onClick={() => setChosen(x.id)}
          >
            {x.name}
          </Button>
        ))}
      </Flex>
      <Text fontSize="12px" color="quiet" mb="6px">
        {template.says}
      </Text>
      {template.places.some((q) => q.bar) && (
        <Metres
          says={t("height of the bar, m")}
          bad={t("a bar lies 0.5 to 7 m high")}
          least={0.5}
          most={7}
          value={bar}
          onValue={height}
        />
      )}
      {template.places.map((q) => {
        const set = points.find((m) => m.name === q.name);
        return (
          <Flex key={q.name} align="center" gap="8px" py="2px">
            <Text flex="1" fontSize="12.5px" color={set ? "chalk" : "quiet"}>
              {q.name}
              {g?.worst === q.name && points.length > 4 && g.error_px > 4 && (
                <Text as="span" color="amber">
                  {" "}
                  {t("fits worst")}
                </Text>
              )}
            </Text>
            <Button
              size="2xs"
              variant={set ? "ghost" : "outline"}
              disabled={q.bar && !bar}
              title={q.bar && !bar ? t("The height of the bar comes first") : undefined}
              onClick={() => place(q)}
            >
              {set ? t("Again") : t("Click")}
            </Button>
            {set && (
              <Button
                size="2xs"
                variant="ghost"
                aria-label={t("remove {name}", { name: q.name })}
                onClick={() =>
                  put({ ...marks, template: template.id, points: points.filter((m) => m.name !== q.name) })
                }
              >
                ×
              </Button>
            )}
          </Flex>
        );
      })}
      {radius > 0 && (
        <>
          <Flex align="center" gap="8px" py="2px">
            <Text flex="1" fontSize="12.5px" color={rims.length ? "chalk" : "quiet"}>
              {t("more of the rim: {count} {which}", {
                count: rims.length,
                which: rims.length === 1 ? t("place") : t("places"),
              })}
              {rims.length < 4 && (
                <Text as="span" color="quiet">
                  {" "}
                  {t("(six or more make it surer)")}
                </Text>
              )}
            </Text>
            <Button size="2xs" variant="outline" data-testid="rim" onClick={() => addRim(points)}>
              {t("Click")}
            </Button>
            {rims.length > 0 && (
              <Button
                size="2xs"
                variant="ghost"
                aria-label={t("forget the places on the rim")}
                onClick={() => put({ ...marks, template: template.id, points: points.filter((q) => !q.rim) })}
              >
                ×
              </Button>
            )}
          </Flex>
        </>
      )}
      {template.id !== "lanes" && template.id !== "free" && points.length > 0 && (
        <Metres
          says={t("camera to the {which}, m, in paces is enough", {
            which: radius > 0 ? t("middle of the circle") : template.id === "bar" ? t("middle of the bar") : t("line"),
          })}
          bad={t("a camera stands 1 to 200 m away")}
          least={1}
          most={200}
          value={marks?.away}
          onValue={(away) => put({ ...marks, template: template.id, points, away })}
        />
      )}
      {(radius > 0 || template.id === "free") && points.length > 0 && (
        <Flex align="center" gap="8px" py="2px">
          <Text flex="1" fontSize="12.5px" color={marks?.aim ? "chalk" : "quiet"}>
            {t("middle of the sector{which}", {
              which: marks?.aim ? t(", set by hand") : t(": as the dividing lines say"),
            })}
          </Text>
          <Button
            size="2xs"
            variant={marks?.aim ? "ghost" : "outline"}
            data-testid="aim"
            onClick={() =>
              tool({
                kind: "spot",
                says: t("Click a place on the ground far out in the middle of the sector"),
                done: (x, y) => {
                  tool(null);
                  put({ ...marks, template: template.id, points, aim: { frame: player.get().frame, x, y } });
                },
              })
            }
          >
            {marks?.aim ? t("Again") : t("Set by hand")}
          </Button>
          {marks?.aim && (
            <Button
              size="2xs"
              variant="ghost"
              aria-label={t("forget the middle of the sector")}
              onClick={() => put({ ...marks, template: template.id, points, aim: undefined })}
            >
              ×
            </Button>
          )}
        </Flex>
      )}
      {(template.id === "free" || factsOf(model.id).runway === template.id) && (
        <Free
          says={
            template.id === "free"
              ? undefined
              : template.id === "bar"
                ? t(
                    "Marks of your own, by tape: metres along from the middle of the bar, metres to the right of it. Two of them in the run-up make the curve sure.",
                  )
                : t(
                    "Marks of your own, by tape: metres along (minus is before the line), metres to the right of the middle.",
                  )
          }
          points={own}
          onPlace={(name, along, right) => place({ name, along, right })}
          onForget={(name) => put({ ...marks, template: template.id, points: points.filter((m) => m.name !== name) })}
        />
      )}
      {g && points.length > 0 && (
        <Text fontSize="12.5px" mt="6px" data-testid="ground-error">
          {t("fits within")} <b>{t("{errorPx} px", { errorPx: fixed(g.error_px, 1) })}</b>
          {t(", {errorCm} cm on the ground", { errorCm: fixed(g.error_cm, 1) })}
        </Text>
      )}
      {!g && points.length > 0 && (
        <Notice mt="8px">
          {report?.problems.find((x) => x.includes("place")) ??
            t("{n} more to click.", { n: Math.max(0, 4 - points.length) })}
        </Notice>
      )}

      <StripSheet clip={clip} report={report} open={strip} onClose={() => setStrip(false)} player={player} />
    </Box>
  );
}

/** Metres asks for a length that somebody knows. */
function Metres({
  says,
  bad,
  least,
  most,
  value,
  onValue,
}: {
  says: string;
  bad: string;
  least: number;
  most: number;
  value?: number;
  onValue(v: number | undefined): void;
}) {
  const [text, setText] = useState(value ? String(value) : "");
  const n = readNumber(text) ?? NaN;
  const wrong = text !== "" && !(n >= least && n <= most);
  return (
    <Flex align="center" gap="8px" py="2px">
      <Text flex="1" fontSize="12.5px" color={wrong ? "amber" : "quiet"}>
        {wrong ? bad : says}
      </Text>
      <Input
        w="76px"
        h="26px"
        placeholder="?"
        value={text}
        aria-label={says}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => !wrong && n !== (value ?? 0) && onValue(text === "" ? undefined : n)}
      />
    </Flex>
  );
}

function Free({
  says,
  points,
  onPlace,
  onForget,
}: {
  says?: string;
  points: ControlPoints["points"];
  onPlace(name: string, along: number, right: number): void;
  onForget(name: string): void;
}) {
  const [along, setAlong] = useState("");
  const [right, setRight] = useState("");
  const num = (s: string) => readNumber(s) ?? NaN;
  return (
    <>
      {says && (
        <Text fontSize="12px" color="quiet" mt="8px">
          {says}
        </Text>
      )}
      {points.map((q) => (
        <Flex key={q.name} align="center" gap="8px">
          <Text flex="1" fontSize="12.5px">
            {q.name}
          </Text>
          <Button
            size="2xs"
            variant="ghost"
            aria-label={t("remove {name}", { name: q.name })}
            onClick={() => onForget(q.name)}
          >
            ×
          </Button>
        </Flex>
      ))}
      <Flex gap="6px" mt="4px">
        <Input
          placeholder={t("m along")}
          value={along}
          onChange={(e) => setAlong(e.target.value)}
          aria-label={t("metres along")}
        />
        <Input
          placeholder={t("m to the right")}
          value={right}
          onChange={(e) => setRight(e.target.value)}
          aria-label={t("metres to the right")}
        />
        <Button
          size="xs"
          h="32px"
          variant="outline"
          disabled={!Number.isFinite(num(along)) || !Number.isFinite(num(right))}
          onClick={() =>
            onPlace(
              t("{along} m along, {right} m right", { along: num(along), right: num(right) }),
              num(along),
              num(right),
            )
          }
        >
          {t("Click")}
        </Button>
      </Flex>
    </>
  );
}

/** Camera: whether it stood or turned; paths are read only after a look. */
function Camera({ clip, onStrip, steps }: { clip: Clip; onStrip(): void; steps: number }) {
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState("");
  const look = useCameraLook(clip, setShare, setTrouble);
  const c = clip.camera;
  const turned = c?.turns?.length
    ? (Math.max(...c.turns.map((v) => v[1])) - Math.min(...c.turns.map((v) => v[1]))) * (180 / Math.PI)
    : 0;
  return (
    <Box mb="16px">
      <Head tone="chalk">{t("Camera")}</Head>
      {share !== null ? (
        <Flex align="center" gap="8px">
          <Text flex="1" fontSize="12.5px" color="quiet">
            {t("looking at the background … {share} %", { share: Math.round(share * 100) })}
          </Text>
          <Button size="xs" variant="outline" onClick={look.stop}>
            {t("Stop")}
          </Button>
        </Flex>
      ) : (
        <Flex align="center" gap="8px" wrap="wrap">
          <Text flex="1" fontSize="12.5px" data-testid="camera">
            {!c ? (
              t("Whether the camera moved has not been checked; paths need it.")
            ) : c.problem ? (
              <Text as="span" color="amber">
                {t("No common frame: {problem}.", { problem: c.problem })}
              </Text>
            ) : turned ? (
              t(
                "It turns with the athlete by {turned}°; paths are shown in one still frame (background fits within {residual} px).",
                { turned: fixed(turned, 0), residual: fixed(c.residual, 1) },
              )
            ) : (
              t("It stands still.")
            )}
          </Text>
          <Button size="xs" variant={c ? "ghost" : "solid"} onClick={look.start} data-testid="look-at-camera">
            {c ? t("Look again") : t("Look")}
          </Button>
        </Flex>
      )}
      {c?.notes?.map((n) => (
        <Notice key={n} mt="6px">
          {n}
        </Notice>
      ))}
      {trouble && (
        <Notice tone="clay" mt="6px">
          {trouble}
        </Notice>
      )}
      {c && !c.problem && (
        <Button size="xs" variant="outline" mt="8px" onClick={onStrip}>
          {t("Strip of the run{which}", { which: steps ? t(" with {steps} foot prints", { steps }) : "" })}
        </Button>
      )}
    </Box>
  );
}

/** useCameraLook looks through the clip in the server and brings the answer in. */
export function useCameraLook(
  clip: Clip | undefined,
  progress: (share: number | null) => void,
  trouble: (says: string) => void,
) {
  const refresh = useRefresh();
  const work = useAbortable(clip?.id ?? "");
  return {
    stop: work.stop,
    start: async () => {
      if (!clip) return;
      const signal = work.begin();
      progress(0);
      trouble("");
      try {
        await lookAtCamera(clip.id, progress, signal);
        refresh("workspace");
      } catch (e) {
        if (!signal.aborted) trouble((e as Error).message);
      }
      progress(null);
    },
  };
}

/** StripSheet: the run as one wide picture, with a print for each contact. */
function StripSheet({
  clip,
  report,
  open,
  onClose,
  player,
}: {
  clip: Clip;
  report?: Report;
  open: boolean;
  onClose(): void;
  player: Player;
}) {
  const [pic, setPic] = useState<{ url: string; x0: number; y0: number; k: number; w: number; h: number } | null>(null);
  const [trouble, setTrouble] = useState("");
  const steps = report?.steps ?? [];
  const frames = steps
    .map((s) => s.from)
    .slice(0, 16)
    .join(",");
  useEffect(() => {
    if (!open) return;
    let gone = false;
    let url = "";
    setPic(null);
    setTrouble("");
    void (async () => {
      const r = await fetch(`/api/clips/${clip.id}/strip.jpg?frames=${frames}`).catch(() => null);
      if (!r?.ok)
        return setTrouble(
          ((await r?.json().catch(() => null)) as { detail?: string } | null)?.detail ??
            t("The strip could not be made. Try again."),
        );
      const [x0, y0, k] = (r.headers.get("X-Strip") ?? "0 0 1").split(" ").map(Number);
      const b = await r.blob();
      const bitmap = await createImageBitmap(b);
      url = URL.createObjectURL(b);
      if (!gone) setPic({ url, x0, y0, k, w: bitmap.width, h: bitmap.height });
    })();
    return () => {
      gone = true;
      if (url) URL.revokeObjectURL(url);
    };
  }, [open, clip.id, frames]);
  if (!open) return null;
  return (
    <Modal title={t("Strip of the run")} open onClose={onClose} wide="screen">
      {trouble && <Notice tone="clay">{trouble}</Notice>}
      {!pic && !trouble && <Text color="quiet">{t("Piecing the background together …")}</Text>}
      {pic && (
        <Box overflowX="auto" data-testid="strip">
          <svg
            viewBox={`0 0 ${pic.w} ${pic.h + 34}`}
            style={{ display: "block", width: "100%", minWidth: Math.min(pic.w, 640) }}
          >
            <image href={pic.url} width={pic.w} height={pic.h} />
            {steps.map((s) => {
              if (!s.at) return null;
              const x = pic.k * (s.at[0] - pic.x0);
              const y = pic.k * (s.at[1] - pic.y0);
              const right = s.foot === "right";
              return (
                <g key={s.n} style={{ cursor: "pointer" }} onClick={() => (player.jump(s.from), onClose())}>
                  {right ? (
                    <rect
                      x={x - 7}
                      y={y - 3.5}
                      width={14}
                      height={7}
                      rx={2}
                      fill="var(--chakra-colors-sky)"
                      stroke={onPicture.pit}
                    />
                  ) : (
                    <ellipse cx={x} cy={y} rx={8} ry={3.8} fill="var(--chakra-colors-clay)" stroke={onPicture.pit} />
                  )}
                  <path d={`M${x} ${y + 5}V${pic.h + 6}`} stroke="var(--chakra-colors-quiet)" strokeDasharray="2 3" />
                  <text
                    x={x}
                    y={pic.h + 18}
                    textAnchor="middle"
                    style={{ fontSize: 11, fontWeight: 600 }}
                    fill="var(--chakra-colors-chalk)"
                  >
                    {s.foot[0].toUpperCase()}{" "}
                    {s.contact ? t("{value} ms", { value: Math.round(s.contact.value * 1000) }) : ""}
                  </text>
                  <text
                    x={x}
                    y={pic.h + 31}
                    textAnchor="middle"
                    style={{ fontSize: 10.5 }}
                    fill="var(--chakra-colors-quiet)"
                  >
                    {s.length ? t("{value} m", { value: fixed(s.length.value, 2) }) : ""}
                  </text>
                </g>
              );
            })}
          </svg>
        </Box>
      )}
    </Modal>
  );
}
