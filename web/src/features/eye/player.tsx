import { Box } from "@chakra-ui/react";
import { useEffect, useEffectEvent, useRef, useState, type ReactNode } from "react";
import type { EyeShown } from "../../api/client";
import { sheetOf } from "./api";

/** Player shows one picture of a clip, as large as there is room, with what is drawn on it. */
export function Player({
  clip,
  frame,
  label,
  tone,
  children,
  onReady,
}: {
  clip: EyeShown;
  frame: number;
  label: string;
  tone?: string;
  children?: ReactNode;
  onReady?(): void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [sheet, setSheet] = useState<HTMLImageElement | null>(null);
  const ready = useEffectEvent(() => onReady?.());
  useEffect(() => {
    const image = new Image();
    image.onload = () => {
      setSheet(image);
      ready();
    };
    image.src = sheetOf(clip.clip);
    return () => {
      image.onload = null;
    };
  }, [clip.clip]);
  useEffect(() => {
    const to = canvas.current?.getContext("2d");
    if (!to || !sheet) return;
    const n = Math.max(0, Math.min(clip.frames - 1, frame));
    const x = (n % clip.columns) * clip.width;
    const y = Math.floor(n / clip.columns) * clip.height;
    to.drawImage(sheet, x, y, clip.width, clip.height, 0, 0, clip.width, clip.height);
    canvas.current!.dataset.frame = String(n);
  }, [sheet, frame, clip]);
  return (
    <Box
      position="relative"
      bg="pit"
      borderRadius="panel"
      overflow="hidden"
      border="2px solid"
      borderColor={tone ?? "transparent"}
      flex="1 1 0"
      minW="0"
      maxW={`calc(56vh * ${clip.width / clip.height})`}
    >
      <canvas
        ref={canvas}
        width={clip.width}
        height={clip.height}
        role="img"
        aria-label={label}
        data-clip={clip.clip}
        style={{ display: "block", width: "100%", aspectRatio: `${clip.width} / ${clip.height}` }}
      />
      <svg
        viewBox={`0 0 ${clip.width} ${clip.height}`}
        style={{ position: "absolute", inset: 0, width: "100%", height: "100%", pointerEvents: "none" }}
        aria-hidden
      >
        {children}
      </svg>
      <Box
        position="absolute"
        left="8px"
        top="6px"
        fontSize="12px"
        color="#fff8f2"
        textShadow="0 1px 3px #000"
        pointerEvents="none"
      >
        {label}
      </Box>
    </Box>
  );
}
