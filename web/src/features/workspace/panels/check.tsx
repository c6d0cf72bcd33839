import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import type { CircleSeen, Report } from "../../../api/client";
import { frameURL } from "../../../api/media";
import { onPicture } from "../../../ui/color";
import { Head, Key, Notice } from "../../../ui/parts";
import { useOpenClip } from "../context";
import { useClickAthlete } from "../hooks/useClickAthlete";
import { answer, asked, taken } from "../questions";
import { usePlayer } from "../stage/player";
import { t } from "../../../texts/texts";

type Question = Report["questions"][number];

/** CheckPanel asks what the tool is not sure of, what matters most first: one card at a
 * time, with pictures to choose from. */
export function CheckPanel() {
  const { clip, report, state, player } = useOpenClip();
  const all = report?.questions ?? [];
  const q = asked(report, state.later, clip.id);
  const rest = all.filter((x) => x !== q);
  const carries = report?.carries;
  return (
    <Box data-testid="check">
      {q ? (
        <Card key={q.id} q={q} />
      ) : (
        <Text fontSize="12.5px" color="quiet" mb="14px">
          {all.length
            ? t("You have put off what is left. It comes back when the clip is opened again.")
            : t(
                "Nothing to ask: what this clip can carry is read, or its key positions are not found yet. Flag one by hand (F) and the rest may follow.",
              )}
        </Text>
      )}
      {rest.length > 0 && (
        <Box mb="14px">
          <Head>{t("Then")}</Head>
          {rest.map((x) => (
            <Flex
              key={x.id}
              as="button"
              w="100%"
              textAlign="left"
              gap="10px"
              py="3px"
              fontSize="12px"
              color="quiet"
              cursor="pointer"
              _hover={{ color: "chalk" }}
              onClick={() => player.jump(x.frame)}
            >
              <Text flex="1">{x.text}</Text>
              <Text>{hang(x.for.length)}</Text>
            </Flex>
          ))}
        </Box>
      )}
      {carries && (
        <Box fontSize="12px" data-testid="carries">
          <Head>{t("What these pictures carry")}</Head>
          {carries.can.map((c) => (
            <Text key={c} mb="2px">
              {c}
            </Text>
          ))}
          {carries.cannot.length > 0 && (
            <>
              <Text color="amber" mt="8px" mb="2px">
                {t("and what they do not")}
              </Text>
              {carries.cannot.map((c) => (
                <Text key={c} color="quiet" mb="2px">
                  {c}
                </Text>
              ))}
            </>
          )}
        </Box>
      )}
    </Box>
  );
}

/** Card is one question with its likely answers. */
function Card({ q }: { q: Question }) {
  const { circle, clip, core, dispatch, edit, input, player, model } = useOpenClip();
  const frame = usePlayer(player, (s) => s.frame);
  const [trouble, setTrouble] = useState("");
  const click = useClickAthlete(setTrouble);
  const take = (o: Question["options"][number]) => edit(...answer({ clip: clip.id, core, input }, q, o));
  const names = q.for.map((id) => model.checkpoints.find((c) => c.id === id)?.name ?? id);
  return (
    <Box bg="raised" borderRadius="panel" p="12px" mb="12px" data-testid="question" data-question={q.id}>
      <Text fontSize="14px" fontWeight="650" mb="2px">
        {q.text}
      </Text>
      {q.hint && (
        <Text fontSize="12.5px" mb="4px">
          {q.hint}
        </Text>
      )}
      <Text fontSize="11.5px" color="quiet" mb="10px" lineClamp="2" title={names.join(", ")}>
        {names.join(", ")}
      </Text>
      <Flex gap="8px" mb={q.options.length ? "10px" : 0}>
        {q.options.map((o, i) => (
          <Box
            key={i}
            as="button"
            flex="1"
            minW="0"
            textAlign="left"
            cursor="pointer"
            borderRadius="4px"
            overflow="hidden"
            border="2px solid transparent"
            _hover={{ borderColor: "clay" }}
            data-option={i}
            onClick={() => take(o)}
            onMouseEnter={() => player.jump(o.frame)}
          >
            <Crop clip={clip} q={q} o={o} />
            <Text fontSize="11.5px" pt="4px" px="2px">
              <Key>{5 + i}</Key> {o.label}
            </Text>
          </Box>
        ))}
      </Flex>
      {q.kind === "circle" && circle?.marks && (
        <Box
          as="button"
          display="block"
          w="100%"
          mb="10px"
          textAlign="left"
          cursor="pointer"
          onClick={() => edit(...taken(clip.id, circle))}
          onMouseEnter={() => player.jump(circle.frame)}
          data-testid="circle-seen"
        >
          <Seen clip={clip} circle={circle} />
          <Text fontSize="11.5px" pt="4px">
            <Key>5</Key>{" "}
            {t("take this one{which}", {
              which: circle.lines ? "" : t("; its lines are not seen: the camera is taken to stand square"),
            })}
          </Text>
        </Box>
      )}
      {trouble && (
        <Notice tone="amber" mb="8px">
          {trouble}
        </Notice>
      )}
      <Flex gap="6px" flexWrap="wrap">
        {q.kind === "moment" && !q.options.some((o) => o.frame === frame) && (
          <Button size="xs" variant="outline" onClick={() => take({ label: "", frame })} data-testid="this-frame">
            {t("The frame on the stage ({frame})", { frame })} <Key>9</Key>
          </Button>
        )}
        {q.kind === "moment" && q.options.length === 0 && (
          <Button size="xs" variant="outline" onClick={() => player.jump(q.frame)}>
            {t("Go near it")}
          </Button>
        )}
        {q.kind === "athlete" && (
          <Button
            size="xs"
            variant="outline"
            onClick={() => {
              player.jump(q.frame);
              click();
            }}
            data-testid="click-athlete"
          >
            {t("Click the athlete")}
          </Button>
        )}
        {q.kind === "circle" && (
          <Button size="xs" variant="outline" onClick={() => dispatch({ type: "panel", panel: "ground" })}>
            {t("Mark its rim")} <Key>G</Key>
          </Button>
        )}
        {q.kind === "joint" && (
          <Button
            size="xs"
            variant="outline"
            onClick={() => {
              player.jump(q.frame);
              dispatch({ type: "select", landmark: q.landmark ?? null });
            }}
          >
            {q.options.length ? t("Drag it on the stage") : t("Place it on the stage")}
          </Button>
        )}
        {q.kind === "moment" && (
          <Button
            size="xs"
            variant="outline"
            onClick={() => edit({ kind: "flag", clip: clip.id, key: q.position ?? "", value: -1 })}
          >
            {t("Not in this clip")}
          </Button>
        )}
        <Button size="xs" variant="ghost" onClick={() => dispatch({ type: "later", id: clip.id + q.id })}>
          {t("Later")} <Key>8</Key>
        </Button>
      </Flex>
    </Box>
  );
}

/** Seen shows the circle that was found in the picture. */
function Seen({ clip, circle }: { clip: { id: string; width: number; height: number }; circle: CircleSeen }) {
  const outline = circle.outline ?? [];
  const xs = outline.map((p) => p[0]);
  const ys = outline.map((p) => p[1]);
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const middle = (Math.min(...ys) + Math.max(...ys)) / 2;
  const width = Math.min(clip.width, (right - left) * 1.3);
  const height = width * 0.42;
  const x = Math.max(0, Math.min(clip.width - width, (left + right - width) / 2));
  const y = Math.max(0, Math.min(clip.height - height, middle - height / 2));
  return (
    <Part clip={clip} frame={circle.frame} of={{ x, y, width, height }}>
      <svg
        viewBox={`${x} ${y} ${width} ${height}`}
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%" }}
      >
        <polyline
          points={outline.map((p) => p.join(",")).join(" ")}
          fill="none"
          stroke={onPicture.amber}
          strokeWidth={width / 160}
        />
        {circle.marks?.points
          .filter((p) => !p.rim)
          .map((p) => (
            <circle key={p.name} cx={p.x} cy={p.y} r={width / 70} fill={onPicture.amber}>
              <title>{p.name}</title>
            </circle>
          ))}
      </svg>
    </Part>
  );
}

const hang = (n: number) => (n === 1 ? t("1 reading") : t("{n} readings", { n }));

/** Crop shows the part of a frame in which to look, with a ring round a joint. */
function Crop({
  clip,
  q,
  o,
}: {
  clip: { id: string; width: number; height: number };
  q: Question;
  o: Question["options"][number];
}) {
  const { x, y, width, height } = q.look;
  return (
    <Part clip={clip} frame={o.frame} of={q.look}>
      {(q.kind === "joint" || q.kind === "sides") && (
        <Box
          position="absolute"
          w="18px"
          h="18px"
          m="-9px"
          borderRadius="full"
          border="2px solid"
          borderColor="amber"
          style={{ left: share((o.x ?? 0) - x, width), top: share((o.y ?? 0) - y, height) }}
        />
      )}
    </Part>
  );
}

const share = (v: number, of: number) => `${(100 * v) / of}%`;

/** Part shows a part of a frame, and what is drawn over it. */
function Part({
  clip,
  frame,
  of: { x, y, width, height },
  children,
}: {
  clip: { id: string; width: number; height: number };
  frame: number;
  of: { x: number; y: number; width: number; height: number };
  children: ReactNode;
}) {
  return (
    <Box
      position="relative"
      overflow="hidden"
      borderRadius="4px"
      bg="ink"
      style={{ aspectRatio: `${width} / ${height}` }}
    >
      <img
        src={frameURL(clip.id, frame)}
        alt={t("frame {frame}", { frame })}
        style={{
          position: "absolute",
          maxWidth: "none",
          width: share(clip.width, width),
          left: share(-x, width),
          top: share(-y, height),
        }}
      />
      {children}
    </Box>
  );
}
