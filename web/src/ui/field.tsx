import { Field, NativeSelect, Text } from "@chakra-ui/react";
import { type ReactNode } from "react";

export const Named = ({ name, help, children }: { name: string; help?: string; children: ReactNode }) => (
  <Field.Root gap="2px">
    <Field.Label fontSize="12px" color="quiet" fontWeight="400">
      {name}
    </Field.Label>
    {children}
    {help && (
      <Text fontSize="11px" color="quiet">
        {help}
      </Text>
    )}
  </Field.Root>
);

export const Choice = ({
  value,
  options,
  onChange,
  name,
  label,
  small,
}: {
  value: string;
  options: Record<string, string>;
  onChange(v: string): void;
  name?: string;
  /** what it is called where no label stands beside it */
  label?: string;
  small?: boolean;
}) => (
  <NativeSelect.Root size={small ? "xs" : "sm"}>
    <NativeSelect.Field
      name={name}
      aria-label={label}
      {...(small ? { h: "26px", fontSize: "12px" } : { h: "32px", fontSize: "13px" })}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      bg="raised"
      borderColor="seam"
      borderRadius="panel"
    >
      {Object.entries(options).map(([v, t]) => (
        <option key={v} value={v}>
          {t}
        </option>
      ))}
    </NativeSelect.Field>
    <NativeSelect.Indicator />
  </NativeSelect.Root>
);
