import { Button, Flex } from "@chakra-ui/react";
import type { RefObject } from "react";
import { save, toPNG, toSVG } from "../../timeline/export";
import { t } from "../../../../texts/texts";

/** SaveDrawing offers a drawing as a file. */
export function SaveDrawing({ drawing, name }: { drawing: RefObject<SVGSVGElement | null>; name: string }) {
  const give = async (kind: "svg" | "png") => {
    const d = drawing.current;
    if (d) save(`${name}.${kind}`, kind === "svg" ? new Blob([toSVG(d)], { type: "image/svg+xml" }) : await toPNG(d));
  };
  return (
    <Flex position="absolute" right="0" bottom="0" gap="2px">
      {(["svg", "png"] as const).map((k) => (
        <Button
          key={k}
          size="xs"
          h="20px"
          px="6px"
          fontSize="11px"
          variant="ghost"
          onClick={() => void give(k)}
          aria-label={t("{name} as {toUpperCase}", { name, toUpperCase: k.toUpperCase() })}
        >
          {k.toUpperCase()}
        </Button>
      ))}
    </Flex>
  );
}
