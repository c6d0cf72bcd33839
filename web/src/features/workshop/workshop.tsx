import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { memo, useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { Question, Reckoned, Workshop as Known } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { useAthletes } from "../athlete/api";
import { Choice } from "../../ui/field";
import { Modal } from "../../ui/modal";
import { Opening } from "../../ui/opening";
import { Head, Notice } from "../../ui/parts";
import { useTitle } from "../../ui/title";
import { useTakeAway } from "../../ui/undo";
import { dayAndYear, longDay, today } from "../../ui/written";
import { usePageKeys } from "../../ui/page_keys";
import { t } from "../../texts/texts";
import { fieldSheet, useDrop, useKeep, useKnown } from "./api";
import { OnTheField } from "./field";
import { KeepForm, Outcome } from "./kept";
import { Asked, useAnswers, useSheet } from "./question";
import { fresh, useReckoner, type Reckoner } from "./reckon";

const groups: Record<Question["group"], string> = {
  "run-up": t("Run-up"),
  jump: t("Jump"),
  throw: t("Throw"),
  run: t("Run"),
  limits: t("Force and limits"),
};

/** Workshop answers what coaches reckon by head: by itself, for an athlete, or from one attempt. */
export default function Workshop() {
  const { athlete } = useParams();
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  const athletes = useAthletes();
  const attempt = search.get("attempt") ?? "";
  const known = useKnown(athlete, search.get("event") ?? "", attempt);
  const { reckoner, failed } = useReckoner();
  const name = known.data?.athlete.name;
  useTitle(name, t("workshop"));
  usePageKeys({
    Escape: () => void go(attempt ? `/attempt/${attempt}` : athlete ? `/athlete/${athlete}` : "/"),
  });
  const event = (known.data?.event || search.get("event") || "high-jump") as EventID;
  const set = (patch: Record<string, string>) => {
    const next = new URLSearchParams(search);
    for (const [k, v] of Object.entries(patch)) {
      if (v) next.set(k, v);
      else next.delete(k);
    }
    setSearch(next, { replace: true });
  };
  if (failed) return <Opening what={t("the workshop")} error={new Error(failed)} />;
  if (!reckoner || (athlete && known.isPending)) return <Opening what={t("the workshop")} />;
  const list = reckoner.questions(event);
  const q = list.find((x) => x.id === search.get("q")) ?? list[0];
  const keptOf = (id: string) => known.data?.calculations.filter((c) => c.question === id).length ?? 0;
  const people: Record<string, string> = { "": t("by itself") };
  for (const a of athletes.data ?? []) people[a.id] = a.name;
  if (athlete && name) people[athlete] ??= name;
  return (
    <Box
      as="main"
      className="grows workshop"
      minH="100%"
      maxW="1280px"
      mx="auto"
      px={{ base: "12px", md: "20px" }}
      pb="40px"
    >
      <Flex minH="58px" py="6px" wrap="wrap" align="center" gap="10px">
        <Link
          to={attempt ? `/attempt/${attempt}` : athlete ? `/athlete/${athlete}` : "/"}
          title={
            attempt ? t("Back to the Bench (Esc)") : athlete ? t("Back to the log (Esc)") : t("Back to the queue (Esc)")
          }
          aria-label={t("Back")}
        >
          <img src="/mark.svg" width={26} height={26} alt="" />
        </Link>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {t("Workshop")}
        </Text>
        <Box w={{ base: "calc(50% - 5px)", md: "190px" }} order={{ base: 1, md: 0 }}>
          <Choice
            small
            label={t("For whom")}
            value={athlete ?? ""}
            options={people}
            onChange={(id) => void go(id ? `/workshop/${id}` : `/workshop?event=${event}`)}
          />
        </Box>
        <Box w={{ base: "calc(50% - 5px)", md: "150px" }} order={{ base: 1, md: 0 }}>
          <Choice
            small
            label={t("Event")}
            value={event}
            options={events}
            onChange={(e) => set({ event: e, q: "", attempt: "" })}
          />
        </Box>
        {attempt && (
          <Text color="quiet" fontSize="12px" flex={{ base: "1", md: "none" }}>
            {t("numbers of this attempt first")}
          </Text>
        )}
      </Flex>
      {known.error && (
        <Notice tone="amber" mb="10px">
          {t("What clips and log tell cannot be fetched ({why}) Numbers can be typed.", { why: known.error.message })}
        </Notice>
      )}
      <div className="benches">
        <nav aria-label={t("Questions")}>
          {(Object.keys(groups) as Question["group"][]).map((g) => {
            const of = list.filter((x) => x.group === g);
            return (
              of.length > 0 && (
                <div key={g}>
                  <h2>{groups[g]}</h2>
                  {of.map((x) => (
                    <button
                      key={x.id}
                      type="button"
                      aria-current={x.id === q.id || undefined}
                      onClick={() => set({ q: x.id })}
                    >
                      {x.name}
                      {keptOf(x.id) > 0 && (
                        <small title={t("{count} kept", { count: keptOf(x.id) })}> · {keptOf(x.id)}</small>
                      )}
                    </button>
                  ))}
                </div>
              )
            );
          })}
        </nav>
        {q && (
          <One
            key={`${athlete} ${event} ${q.id} ${attempt}`}
            q={q}
            event={event}
            athlete={athlete}
            attempt={attempt}
            known={known.data}
            reckoner={reckoner}
          />
        )}
      </div>
    </Box>
  );
}

/** One is the question at hand, with what was kept of it. */
function One({
  q,
  event,
  athlete,
  attempt,
  known,
  reckoner,
}: {
  q: Question;
  event: string;
  athlete?: string;
  attempt: string;
  known?: Known;
  reckoner: Reckoner;
}) {
  const own = attempt || athlete || "";
  const [sheet, put] = useSheet(own, event, q, known);
  const path = q.id === "high-plan" ? known?.path?.places : undefined;
  const answers = useAnswers(reckoner, q, sheet, path);
  const [open, setOpen] = useState<"keep" | "field" | null>(null);
  const [failed, setFailed] = useState("");
  const keep = useKeep();
  const drop = useDrop();
  const { gone, take } = useTakeAway();
  const now = answers[sheet.at]?.answer;
  const kept = (known?.calculations ?? []).filter((c) => c.question === q.id && !gone.has(c.id));
  const whose = [known?.athlete.name, longDay(today())].filter(Boolean).join(", ");
  // What the tools do reads the sheet as it is then, so that they are not drawn anew while a slider
  // moves.
  const latest = useRef({ sheet, path, whose, known });
  useEffect(() => {
    latest.current = { sheet, path, whose, known };
  });
  const file = useCallback(
    (kind: "pdf" | "svg", paper: "A4" | "Letter" = "A4") => {
      const { sheet, path, whose: name } = latest.current;
      setFailed("");
      void fieldSheet(kind, { question: q.id, values: sheet.variants[sheet.at].values, path, name, paper }).then(
        (b) => save(b, `${q.id}.${kind}`),
        (e: Error) => setFailed(e.message),
      );
    },
    [q.id],
  );
  const anew = useCallback(() => put(fresh(q, latest.current.known)), [put, q]);
  return (
    <Box minW="0">
      <Tools
        q={q}
        drawn={!!now?.drawing}
        laid={!!q.field && (now?.places?.length ?? 0) > 0}
        whole={!!now}
        personal={!!athlete}
        onFile={file}
        onOpen={setOpen}
        onAnew={anew}
      />
      {failed && (
        <Notice tone="clay" mb="8px">
          {failed}
        </Notice>
      )}
      <Asked q={q} sheet={sheet} put={put} answers={answers} known={known} />
      {kept.length > 0 && (
        <Box mt="18px">
          <Head>{t("Kept, and what came of it")}</Head>
          <div className="kept">
            {kept.map((c) => (
              <Kept
                key={c.id}
                c={c}
                onPage={(on_page) => {
                  const { id, athlete_id, attempt_id, event, question, name, variants, chosen, made_on } = c;
                  keep.mutate({
                    id,
                    athlete: athlete_id,
                    attempt_id,
                    event,
                    question,
                    name,
                    variants,
                    chosen,
                    made_on,
                    on_page,
                  });
                }}
                onOpen={() =>
                  put({
                    ...sheet,
                    variants: c.variants.map((v) => ({ name: v.name || t("as it is"), values: v.values })),
                    at: c.chosen,
                  })
                }
                onDrop={() =>
                  take(c.id, t("“{name}” is taken out", { name: c.name }), (done) =>
                    drop.mutate(c.id, { onSettled: done }),
                  )
                }
              />
            ))}
          </div>
        </Box>
      )}
      {open === "keep" && (
        <Modal
          title={t("Keep with {name}", { name: known?.athlete.name ?? "" })}
          open
          onClose={() => setOpen(null)}
          focus="input[name=keep]"
        >
          <KeepForm
            usual={q.name}
            chosen={sheet.variants[sheet.at].name}
            page={attempt ? t("this attempt") : undefined}
            busy={keep.isPending}
            error={keep.error?.message}
            onKeep={(name, onPage) =>
              keep.mutate(
                {
                  athlete: athlete!,
                  event,
                  question: q.id,
                  name,
                  attempt_id: attempt || undefined,
                  variants: sheet.variants.map((v) => ({ ...v, path })),
                  chosen: sheet.at,
                  on_page: onPage,
                  made_on: today(),
                },
                { onSuccess: () => setOpen(null) },
              )
            }
          />
        </Modal>
      )}
      {open === "field" && now && <OnTheField q={q} answer={now} onClose={() => setOpen(null)} />}
    </Box>
  );
}

/** Tools are what can be done with a question. */
const Tools = memo(function Tools({
  q,
  drawn,
  laid,
  whole,
  personal,
  onFile,
  onOpen,
  onAnew,
}: {
  q: Question;
  drawn: boolean;
  laid: boolean;
  whole: boolean;
  personal: boolean;
  onFile(kind: "pdf" | "svg", paper?: "A4" | "Letter"): void;
  onOpen(what: "keep" | "field"): void;
  onAnew(): void;
}) {
  return (
    <Flex gap="8px" wrap="wrap" align="flex-start" mb="10px">
      <Box flex="1" minW="240px">
        <Text as="h2" fontSize="20px" fontWeight="700" lineHeight="1.2">
          {q.name}
        </Text>
        <Text color="quiet">{q.says}</Text>
      </Box>
      {drawn && (
        <Flex gap="2px" align="center">
          <Button size="xs" variant="ghost" onClick={() => onFile("svg")}>
            {t("SVG")}
          </Button>
          <Button size="xs" variant="ghost" onClick={() => onFile("pdf", "A4")}>
            {t("PDF A4")}
          </Button>
          <Button size="xs" variant="ghost" onClick={() => onFile("pdf", "Letter")}>
            {t("Letter")}
          </Button>
        </Flex>
      )}
      {laid && (
        <Button variant="outline" onClick={() => onOpen("field")} data-testid="to-the-field">
          {t("At the track")}
        </Button>
      )}
      <Button variant="ghost" title={t("Take every number from clips, log and card again")} onClick={onAnew}>
        {t("Anew")}
      </Button>
      {personal && (
        <Button onClick={() => onOpen("keep")} disabled={!whole} data-testid="keep">
          {t("Keep …")}
        </Button>
      )}
    </Flex>
  );
});

/** save hands a file to the browser's downloads. */
function save(b: Blob, name: string) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(b);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}

function Kept({
  c,
  onPage,
  onOpen,
  onDrop,
}: {
  c: Reckoned;
  onPage(on: boolean): void;
  onOpen(): void;
  onDrop(): void;
}) {
  return (
    <Box bg="panel" borderRadius="panel" p="10px 14px" data-kept={c.id}>
      <Flex gap="8px" align="baseline" wrap="wrap">
        <Text fontWeight="650">{c.name}</Text>
        <Text color="quiet" fontSize="12px">
          {[dayAndYear(c.made_on), c.variants[c.chosen]?.name, c.on_page && t("on the feedback page")]
            .filter(Boolean)
            .join(" · ")}
        </Text>
        <Box flex="1" />
        {c.attempt_id && (
          <Button size="2xs" variant="ghost" onClick={() => onPage(!c.on_page)}>
            {c.on_page ? t("Off the page") : t("On the feedback page")}
          </Button>
        )}
        <Button size="2xs" variant="ghost" onClick={onOpen}>
          {t("Open again")}
        </Button>
        <Button size="2xs" variant="ghost" onClick={onDrop}>
          {t("Take out")}
        </Button>
      </Flex>
      <Outcome c={c} />
    </Box>
  );
}
