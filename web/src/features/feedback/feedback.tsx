import { Box, Button, Flex, Link } from "@chakra-ui/react";
import { Link as RouterLink, useNavigate, useParams } from "react-router";
import { frameURL } from "../../api/media";
import { useFeedback } from "./api";
import { nextAfter, useSetState } from "../queue/api";
import { useWorkspace } from "../workspace/api";
import { Notice } from "../../ui/parts";
import { Paper } from "./paper";
import { Talk } from "../voiceover/section";
import { Send } from "./send";
import { useTitle } from "../../ui/title";
import { Opening } from "../../ui/opening";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";

const print = `@page { margin: 12mm } @media print { html { color-scheme: light } body { background: #fff !important } .screen { display: none !important } .sheet { box-shadow: none !important; margin: 0 !important; padding: 0 !important; max-width: none !important } .whole { break-inside: avoid } }`;

/** Feedback is the page that the athlete gets, always on light paper. */
export default function Feedback() {
  const { id = "" } = useParams();
  const page = useFeedback(id);
  const setState = useSetState();
  const sheet = useWorkspace(id);
  const go = useNavigate();
  usePageKeys({
    l: () => document.querySelector<HTMLElement>("[data-testid=make-link]")?.click(),
    ".": () =>
      void nextAfter(id)
        .catch(() => undefined) // the queue says what is wrong
        .then((next) => go(next ? `/attempt/${next}` : "/")),
    Escape: () => void go(`/attempt/${id}`),
  });
  useTitle(page.data?.athlete.name, t("feedback"));
  if (!page.data)
    return (
      <Opening
        what={t("the feedback page")}
        error={page.error}
        back={{ to: `/attempt/${id}`, name: t("Back to the attempt") }}
      />
    );
  const p = page.data;
  return (
    <Box as="main" className="grows" minH="100%" bg="ground" pb="40px" px={{ base: "8px", md: "0" }}>
      <style>{print}</style>
      <Flex
        className="screen"
        minH="54px"
        py="6px"
        wrap="wrap"
        align="center"
        gap="8px"
        maxW="880px"
        mx="auto"
        px="12px"
      >
        <RouterLink to={`/attempt/${id}`} style={{ color: "inherit" }}>
          {t("← back to the Bench")}
        </RouterLink>
        <Box flex="1" />
        {(
          [
            [t("PDF, A4"), "feedback.pdf?paper=a4"],
            [t("PDF, Letter"), "feedback.pdf?paper=letter"],
            ["CSV", "export.csv"],
            ["JSON", "export.json"],
          ] as const
        ).map(([t, f]) => (
          <Link key={t} href={`/api/attempts/${id}/${f}`} download color="quiet" fontSize="12px" px="6px">
            {t}
          </Link>
        ))}
        <Button size="xs" variant="outline" onClick={() => window.print()}>
          {t("Print")}
        </Button>
        <Button
          size="xs"
          disabled={p.attempt.state === "sent"}
          onClick={() => setState.mutate({ id, state: p.attempt.state === "ready" ? "sent" : "ready" })}
        >
          {p.attempt.state === "sent"
            ? t("Sent")
            : p.attempt.state === "ready"
              ? t("Mark as sent")
              : t("Mark as ready")}
        </Button>
      </Flex>
      {p.lacks.map((l) => (
        <Notice key={l} className="screen" maxW="860px" mx="auto" mb="8px">
          {l}
        </Notice>
      ))}
      <Send id={id} name={p.athlete.name} empty={p.advice.length === 0} />
      <Talk attempt={id} clips={sheet.data?.clips ?? []} name={`${p.athlete.name} ${p.attempt.done_on}`} />
      <Paper p={p} frame={frameURL} />
    </Box>
  );
}
