import { Input } from "@chakra-ui/react";
import { useState, type ComponentProps } from "react";
import { t } from "../texts/texts";

/** readNumber reads what people type: 60,5 and 60.5 are one number. Nothing typed is undefined;
 * what is no number is NaN. */
export function readNumber(text: string): number | undefined {
  const t = text.trim().replace(",", ".").replace("−", "-");
  if (t === "") return undefined;
  return /^[+-]?(\d+\.?\d*|\.\d+)$/.test(t) ? Number(t) : NaN;
}

/** NumberField takes a number, with a comma or a point, and says what it takes when it gets
 * something else. What is typed stays as it was typed. */
export function NumberField({
  value,
  onValue,
  least,
  most,
  whole,
  ...rest
}: {
  value: number | undefined;
  onValue(n: number | undefined): void;
  least?: number;
  most?: number;
  whole?: boolean;
} & Omit<ComponentProps<typeof Input>, "value" | "onChange" | "type">) {
  const [text, setText] = useState(value === undefined ? "" : String(value));
  // Another value from elsewhere takes the place of what was typed.
  const [from, setFrom] = useState(value);
  if (from !== value) {
    setFrom(value);
    if (readNumber(text) !== value) setText(value === undefined ? "" : String(value));
  }
  const wrong = (n: number | undefined) => {
    if (n === undefined) return "";
    if (Number.isNaN(n) || (whole && !Number.isInteger(n)))
      return whole ? t("A whole number, such as 12.") : t("A number, such as 60.5 or 60,5.");
    if ((least !== undefined && n < least) || (most !== undefined && n > most))
      return least === undefined
        ? t("At most {most}.", { most })
        : most === undefined
          ? t("At least {least}.", { least })
          : t("From {least} to {most}.", { least, most });
    return "";
  };
  return (
    <Input
      {...rest}
      inputMode={whole ? "numeric" : "decimal"}
      value={text}
      onChange={(e) => {
        const n = readNumber(e.target.value);
        setText(e.target.value);
        e.target.setCustomValidity(wrong(n));
        if (n === undefined || !Number.isNaN(n)) onValue(n);
      }}
    />
  );
}
