import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState, useSyncExternalStore } from "react";
import { t } from "../texts/texts";

// What takes something away waits a little, so that it can be called back: until then nothing
// has happened on the server.

/** Offer is something that will be done unless it is called back. */
export type Offer = { says: string; act(): void; back(): void };

/** patience is how long it can be called back, ms. */
const patience = 10_000;

let offer: Offer | null = null;
let timer: ReturnType<typeof setTimeout> | undefined;
const listeners = new Set<() => void>();

function put(o: Offer | null) {
  offer = o;
  listeners.forEach((f) => f());
}

function settle(call: "act" | "back") {
  clearTimeout(timer);
  const o = offer;
  put(null);
  o?.[call]();
}

/** offerUndo does something after a while, or at once when something else is to be undone or
 * the page goes. */
export function offerUndo(o: Offer) {
  settle("act");
  put(o);
  timer = setTimeout(() => settle("act"), patience);
}

/** useTakeAway takes things out of a list at once, and away when nobody calls them back. */
export function useTakeAway() {
  const [gone, setGone] = useState<ReadonlySet<string>>(new Set());
  const hide = (id: string, on: boolean) =>
    setGone((was) => {
      const now = new Set(was);
      if (on) now.add(id);
      else now.delete(id);
      return now;
    });
  /** act tells when it has come to its end; from then on the list knows by itself */
  const take = (id: string, says: string, act: (done: () => void) => void) => {
    hide(id, true);
    const shows = () => hide(id, false);
    offerUndo({ says, back: shows, act: () => act(shows) });
  };
  return { gone, take };
}

addEventListener("pagehide", () => settle("act"));

/** Undo shows what can be called back. */
export function Undo() {
  const o = useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => offer,
  );
  if (!o) return null;
  return (
    <Box
      position="fixed"
      left="50%"
      bottom="20px"
      transform="translateX(-50%)"
      bg="raised"
      border="1px solid"
      borderColor="seam"
      borderRadius="panel"
      px="14px"
      py="8px"
      zIndex={25}
      boxShadow="0 8px 28px rgba(0,0,0,.35)"
      data-testid="undo"
      role="status"
      maxW="92vw"
    >
      <Flex gap="12px" align="center">
        <Text>{o.says}</Text>
        <Button size="xs" variant="outline" onClick={() => settle("back")}>
          {t("Undo")}
        </Button>
      </Flex>
    </Box>
  );
}
