import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState, type PointerEvent } from "react";
import { fixed } from "../../ui/written";
import { t } from "../../texts/texts";
import type { Reckoner } from "../workshop/reckon";

type Place = { x: number; y: number };
/** finger is how far a tap lies off what it means, px of the screen: common practice. */
const finger = 5;

/** tells is whether the browser says which picture it shows. */
const tells = "requestVideoFrameCallback" in HTMLVideoElement.prototype;

/** Look loops the last try under its cue: slower, frame by frame, with one line or one angle. */
export function Look({ src, cue, reckoner }: { src: string; cue: string; reckoner: Reckoner }) {
  const video = useRef<HTMLVideoElement>(null);
  // Until two pictures in a row were seen, a step is that of a film of 30 pictures a second.
  const frame = useRef({ lasts: Infinity, at: 0 });
  const [slow, setSlow] = useState(0.25);
  const [plays, setPlays] = useState(true);
  const [tool, setTool] = useState<"" | "line" | "angle">("");
  const [taps, setTaps] = useState<Place[]>([]);
  const [size, setSize] = useState({ w: 16, h: 9 });
  const [scale, setScale] = useState(1); // px of the picture to one of the screen
  const [dark, setDark] = useState(false);
  useEffect(() => {
    const v = video.current!;
    v.playbackRate = slow;
    // The shortest time between two pictures that were shown is that of a frame.
    let before = -1;
    let gone = false;
    const seen = (_: number, m: VideoFrameCallbackMetadata) => {
      const by = m.mediaTime - before;
      if (before >= 0 && by > 0.002 && by < 0.2) frame.current.lasts = Math.min(frame.current.lasts, by);
      before = frame.current.at = m.mediaTime;
      if (!gone) v.requestVideoFrameCallback(seen);
    };
    if (tells) v.requestVideoFrameCallback(seen);
    return () => {
      gone = true;
    };
  }, [slow, src]);
  const by = (n: number) => {
    const v = video.current!;
    v.pause();
    setPlays(false);
    const { lasts } = frame.current;
    const step = Number.isFinite(lasts) ? lasts : 1 / 30;
    const at = Math.max(0, Math.min(v.duration || 0, (tells ? frame.current.at : v.currentTime) + n * step));
    frame.current.at = at;
    // Into the picture, off its edge, where rounding leads to the one before.
    v.currentTime = at + step / 4;
  };
  const most = tool === "angle" ? 3 : 2;
  const tap = (e: PointerEvent<SVGSVGElement>) => {
    if (!tool) return;
    const back = e.currentTarget.getScreenCTM()!.inverse();
    const { x, y } = new DOMPoint(e.clientX, e.clientY).matrixTransform(back);
    const p = { x, y };
    setScale(back.a);
    setTaps(taps.length >= most ? [p] : [...taps, p]);
  };
  const angle = tool === "angle" && taps.length === 3 ? reckoner.angle(taps, finger * scale).angle : undefined;
  const use = (what: "line" | "angle") => {
    video.current?.pause();
    setPlays(false);
    setTaps([]);
    setTool(tool === what ? "" : what);
  };
  return (
    <Box bg="pit" borderRadius="panel" overflow="hidden" data-testid="look">
      <Box position="relative" lineHeight="0">
        <video
          ref={video}
          src={src}
          muted
          loop
          autoPlay
          playsInline
          style={{ width: "100%", maxHeight: "46vh", objectFit: "contain" }}
          onError={() => setDark(true)}
          onLoadedMetadata={(e) => setSize({ w: e.currentTarget.videoWidth, h: e.currentTarget.videoHeight })}
        />
        <svg
          viewBox={`0 0 ${size.w} ${size.h}`}
          style={{ position: "absolute", inset: 0, width: "100%", height: "100%", touchAction: tool ? "none" : "auto" }}
          data-testid="taps"
          onPointerDown={tap}
        >
          <polyline
            points={taps.map((p) => `${p.x},${p.y}`).join(" ")}
            fill="none"
            stroke="#ffb35c"
            strokeWidth={3 * scale}
          />
          {taps.map((p, i) => (
            <circle key={i} cx={p.x} cy={p.y} r={6 * scale} fill="#ffb35c" stroke="#0c1011" strokeWidth={scale} />
          ))}
        </svg>
        {cue && (
          <Text
            position="absolute"
            top="6px"
            left="8px"
            right="8px"
            lineHeight="1.25"
            fontSize="16px"
            fontWeight="650"
            color="#fff8f2"
            textShadow="0 1px 4px #000"
            pointerEvents="none"
          >
            {cue}
          </Text>
        )}
        {angle && (
          <Text
            position="absolute"
            bottom="8px"
            right="10px"
            lineHeight="1"
            fontSize="26px"
            fontWeight="700"
            color="#ffb35c"
            textShadow="0 1px 4px #000"
            data-testid="angle"
          >
            {fixed(angle.value)}° ±{fixed(Math.max(1, angle.half95))}
          </Text>
        )}
      </Box>
      <Flex gap="4px" p="6px" wrap="wrap" bg="panel">
        <Button h="44px" variant="outline" flex="1" aria-label={t("One frame back")} onClick={() => by(-1)}>
          ◂
        </Button>
        <Button
          h="44px"
          variant="outline"
          flex="1"
          onClick={() => {
            const v = video.current!;
            if (plays) v.pause();
            else void v.play();
            setPlays(!plays);
          }}
        >
          {plays ? t("Stop") : t("Loop")}
        </Button>
        <Button h="44px" variant="outline" flex="1" aria-label={t("One frame on")} onClick={() => by(1)}>
          ▸
        </Button>
        <Button
          h="44px"
          variant="outline"
          flex="1"
          onClick={() => setSlow(slow === 1 ? 0.25 : slow === 0.25 ? 0.1 : 1)}
        >
          {slow === 1 ? "1×" : slow === 0.25 ? "¼×" : "⅒×"}
        </Button>
        <Button
          h="44px"
          variant={tool === "line" ? "solid" : "outline"}
          flex="1"
          aria-pressed={tool === "line"}
          onClick={() => use("line")}
        >
          {t("Line")}
        </Button>
        <Button
          h="44px"
          variant={tool === "angle" ? "solid" : "outline"}
          flex="1"
          aria-pressed={tool === "angle"}
          onClick={() => use("angle")}
        >
          {t("Angle")}
        </Button>
      </Flex>
      {dark && (
        <Text fontSize="12.5px" bg="panel" px="10px" py="8px">
          {t("This browser cannot show the film. It is kept, and the team gets it.")}
        </Text>
      )}
      {tool && taps.length < most && (
        <Text fontSize="12px" color="quiet" bg="panel" px="10px" pb="6px">
          {tool === "angle" ? t("Tap three places, the joint second.") : t("Tap two places.")}
        </Text>
      )}
    </Box>
  );
}
