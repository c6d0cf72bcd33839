import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { t } from "../../texts/texts";

/** DropArea takes files by hand or by dropping. */
export function DropArea({ files, onFiles }: { files: File[]; onFiles(f: File[]): void }) {
  const [over, setOver] = useState(false);
  return (
    <Box
      as="label"
      display="block"
      mt="12px"
      p="14px"
      border="1.5px dashed"
      borderColor={over ? "clay" : "seam"}
      borderRadius="panel"
      textAlign="center"
      color="quiet"
      cursor="pointer"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        setOver(false);
        onFiles([...e.dataTransfer.files]);
      }}
    >
      {files.length
        ? files.map((f) => f.name).join(", ")
        : t("Drop clips here, or press to choose (MP4, MOV, WebM, up to 2 GB each)")}
      <input
        type="file"
        multiple
        accept="video/*,.mp4,.mov,.webm,.mkv,.avi"
        style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
        data-testid="files"
        onChange={(e) => {
          const chosen = [...(e.target.files ?? [])];
          e.target.value = ""; // the same file can be chosen again
          if (chosen.length) onFiles(chosen);
        }}
      />
    </Box>
  );
}
