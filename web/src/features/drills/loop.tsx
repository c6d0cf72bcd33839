import { Box } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import type { OwnDrill } from "../../api/client";
import { frameURL, proxyURL } from "../../api/media";
import { t } from "../../texts/texts";

/** Loop plays a drill's stretch of a clip over and over; it stands for who wants less motion. */
export function Loop({ d }: { d: OwnDrill & { clip: string } }) {
  const film = useRef<HTMLVideoElement>(null);
  const { from, to } = d;
  useEffect(() => {
    const v = film.current;
    if (!v || matchMedia("(prefers-reduced-motion: reduce)").matches) return;
    const again = () => {
      if (v.currentTime >= to || v.ended) v.currentTime = from;
      if (v.paused) void v.play().catch(() => {});
    };
    v.currentTime = from;
    const timer = setInterval(again, 40);
    return () => clearInterval(timer);
  }, [from, to]);
  return (
    <Box borderRadius="8px" overflow="hidden" bg="pit">
      <video
        ref={film}
        src={proxyURL(d.clip)}
        poster={frameURL(d.clip, d.first, 960)}
        muted
        playsInline
        preload="auto"
        aria-label={t("{name}, from a clip of {athlete}", { name: d.name, athlete: d.athlete })}
        style={{ display: "block", width: "100%", aspectRatio: `${d.width} / ${d.height}`, maxHeight: "46vh" }}
      />
    </Box>
  );
}
