import { Text } from "@chakra-ui/react";
import { useEffect, useState } from "react";
import { spendTime } from "./api";
import { t } from "../../texts/texts";

const rests = 20_000; // ms without a hand on anything: not hand time any more
const every = 30; // seconds between two reports

/** HandTime shows how long the coach's hand was on this attempt, and adds it up for the
 * coach alone. */
export function HandTime({ id, before }: { id: string; before: number }) {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    let last = Date.now();
    let owed = 0;
    const touch = () => (last = Date.now());
    const pay = () => {
      if (owed < 1) return;
      const n = owed;
      owed = 0;
      spendTime(id, n).catch(() => (owed += n)); // it is told again with the next
    };
    const kinds = ["keydown", "pointerdown", "pointermove", "wheel"] as const;
    kinds.forEach((k) => addEventListener(k, touch, { passive: true }));
    const timer = setInterval(() => {
      if (document.hidden || Date.now() - last > rests) return;
      owed++;
      setSeconds((s) => s + 1);
      if (owed >= every) pay();
    }, 1000);
    return () => {
      clearInterval(timer);
      kinds.forEach((k) => removeEventListener(k, touch));
      pay();
    };
  }, [id]);
  const all = before + seconds;
  return (
    <Text
      fontSize="11.5px"
      color={all > 180 ? "amber" : "quiet"}
      title={t("Hand time on this attempt; only you see it")}
      data-testid="handtime"
      fontVariantNumeric="tabular-nums"
    >
      {Math.floor(all / 60)}:{String(all % 60).padStart(2, "0")}
    </Text>
  );
}
