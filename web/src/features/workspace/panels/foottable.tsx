import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";

/** FootTable lists what happens foot by foot; a row that is chosen opens its frame. */
export function FootTable({ columns, children }: { columns: string[]; children: ReactNode }) {
  return (
    <Box
      as="table"
      w="100%"
      fontSize="12.5px"
      css={{
        "& td, & th": { textAlign: "right", padding: "2px 4px", fontWeight: 400, fontVariantNumeric: "tabular-nums" },
        "& th": { color: "quiet", fontSize: "11.5px" },
        "& td:first-of-type, & th:first-of-type": { textAlign: "left" },
        "& tr[data-step]:hover": { background: "{colors.raised}", cursor: "pointer" },
      }}
    >
      <thead>
        <tr>
          {columns.map((c) => (
            <th key={c}>{c}</th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </Box>
  );
}

/** FootName is the mark of a side, by shape and colour, and a name. */
export function FootName({ foot, children }: { foot: string; children: ReactNode }) {
  const right = foot === "right";
  return (
    <>
      <Box
        as="span"
        display="inline-block"
        w="9px"
        h="9px"
        mr="6px"
        bg={right ? "sky" : "clay"}
        borderRadius={right ? "1px" : "full"}
      />
      {children}
    </>
  );
}
