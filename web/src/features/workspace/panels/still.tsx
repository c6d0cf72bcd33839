import { Box, Text } from "@chakra-ui/react";
import type { Clip, ClipWork, Model, Reading } from "../../../api/client";
import { frameURL } from "../../../api/media";
import { t } from "../../../texts/texts";
import { Bones, Labels, Measured } from "../stage/drawn";
import { at as pointOf } from "../work/tracks";

const wide = 356; // px of the panel
const tall = 300;

/** Still is the picture of a key position, cut out about the athlete, with what is read there. */
export function Still({
  clip,
  frame,
  points,
  readings,
  model,
  far,
  name,
}: {
  clip: Clip;
  frame: number;
  points: ClipWork["points"];
  readings: Reading[];
  model: Model;
  far: string | null;
  name: string;
}) {
  const here = Object.entries(points).flatMap(([id, track]) => {
    const at = pointOf(track, frame);
    return at ? [{ id, at }] : [];
  });
  // What another clip told, or another frame, has no place in this picture.
  const lines = readings.filter((r) => r.value && !r.clip && r.evidence?.lines.length && r.evidence.frame === frame);
  if (here.length < 4) return null;
  const xs = here.map((h) => h.at.x);
  const ys = here.map((h) => h.at.y);
  const pad = 0.22 * Math.max(Math.max(...ys) - Math.min(...ys), 40);
  const [left, top] = [Math.min(...xs) - pad, Math.min(...ys) - pad];
  const [width, height] = [Math.max(...xs) + pad - left, Math.max(...ys) + pad - top];
  // As large as the panel carries; the rest of the picture stands to both sides.
  const k = Math.min(tall / height, wide / Math.max(width, height * 0.7));
  const w = wide;
  const h = Math.round(height * k);
  const x0 = left + width / 2 - w / k / 2;
  const sx = (x: number) => (x - x0) * k;
  const sy = (y: number) => (y - top) * k;
  return (
    <Box mt="14px" data-testid="still" data-frame={frame}>
      <Box position="relative" w="100%" maxW={`${w}px`} overflow="hidden" borderRadius="panel" bg="ink">
        <svg
          viewBox={`0 0 ${w} ${h}`}
          width="100%"
          role="img"
          aria-label={t("{name}, frame {frame}, with what is read there", { name, frame })}
          style={{ display: "block" }}
        >
          <image
            href={frameURL(clip.id, frame)}
            x={sx(0)}
            y={sy(0)}
            width={clip.width * k}
            height={clip.height * k}
            preserveAspectRatio="none"
          />
          <Bones here={here} far={far} sx={sx} sy={sy} />
          {lines.map((r) => (
            <Measured key={r.id} r={r} sx={sx} sy={sy} strong={false} dim={false} />
          ))}
          <Labels lines={lines} model={model} lit={null} sx={sx} sy={sy} w={w} h={h} />
        </svg>
      </Box>
      <Text fontSize="11.5px" color="quiet" mt="3px">
        {t("{name}, frame {frame}", { name, frame })}
      </Text>
    </Box>
  );
}
