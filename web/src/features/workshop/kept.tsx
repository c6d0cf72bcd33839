import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link } from "react-router";
import type { Reckoned } from "../../api/client";
import { Dot, Notice } from "../../ui/parts";
import { Named } from "../../ui/field";
import { dayAndYear } from "../../ui/written";
import { t } from "../../texts/texts";
import { doubt, number } from "./answer";

/** KeepForm asks under which name a calculation is kept, and whether the athlete gets it. */
export function KeepForm({
  usual,
  chosen,
  page,
  error,
  busy,
  onKeep,
}: {
  usual: string;
  chosen: string;
  /** the attempt on whose page it may stand, in words; absent without one */
  page?: string;
  error?: string;
  busy: boolean;
  onKeep(name: string, onPage: boolean): void;
}) {
  const [name, setName] = useState(usual);
  const [on, setOn] = useState(false);
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        onKeep(name.trim() || usual, on);
      }}
    >
      <Named name={t("Name")}>
        <Input name="keep" value={name} maxLength={120} onChange={(e) => setName(e.target.value)} />
      </Named>
      <Text fontSize="12.5px" color="quiet" my="10px">
        {t("“{chosen}” is what is tried: the next clips of this event are held against its numbers.", { chosen })}
      </Text>
      {page && (
        <label style={{ display: "flex", gap: 8, alignItems: "center", marginBottom: 12 }}>
          <input type="checkbox" checked={on} onChange={(e) => setOn(e.target.checked)} />
          {t("on the athlete’s feedback page of {page}", { page })}
        </label>
      )}
      {error && (
        <Notice tone="clay" mb="10px">
          {error}
        </Notice>
      )}
      <Button type="submit" loading={busy}>
        {t("Keep it")}
      </Button>
    </form>
  );
}

/** Outcome is what later clips made of a prediction: predicted, measured, within doubt or not. */
export function Outcome({ c }: { c: Reckoned }) {
  return (
    <Box data-testid="outcome">
      {c.refused && <Notice tone="clay">{c.refused}</Notice>}
      {!c.refused && c.tried.length === 0 && (
        <Text fontSize="12.5px" color="quiet">
          {t("No clip since then shows what it predicts.")}
        </Text>
      )}
      {c.tried.map((a) => (
        <Box key={a.attempt_id} mb="8px">
          <Box fontSize="12px" color="quiet">
            <Link
              to={`/attempt/${a.attempt_id}`}
              style={{ display: "inline-flex", alignItems: "center", lineHeight: "24px" }}
            >
              {[dayAndYear(a.done_on), a.mark].filter(Boolean).join(", ")}
            </Link>
          </Box>
          <table className="answers">
            <thead>
              <tr>
                <td />
                <th scope="col">{t("predicted")}</th>
                <th scope="col">{t("measured")}</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {a.lines.map((l) => (
                <tr key={l.fact} data-within={l.within}>
                  <th scope="row">{l.name}</th>
                  <td>
                    <b>{number({ value: l.predicted, digits: l.digits, unit: l.unit })}</b>{" "}
                    <small>{doubt({ value: l.predicted, digits: l.digits, unit: l.unit })}</small>
                  </td>
                  <td>
                    <b>{number({ value: l.measured, digits: l.digits, unit: l.unit })}</b>{" "}
                    <small>{doubt({ value: l.measured, digits: l.digits, unit: l.unit })}</small>
                  </td>
                  <td>
                    <Flex as="span" align="center" gap="6px" justify="flex-end">
                      <Dot tone={l.within ? "moss" : "clay"} />
                      {l.within ? t("within doubt") : t("other than predicted")}
                    </Flex>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Box>
      ))}
    </Box>
  );
}
