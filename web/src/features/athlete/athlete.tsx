import { Box, Button, Flex, Grid, Input, Link, Text } from "@chakra-ui/react";
import { useMemo, useRef, useState, type ReactNode } from "react";
import { Link as RouterLink, useNavigate, useParams } from "react-router";
import type { EventLog, Log, Logged } from "../../api/client";
import { events, type EventID } from "../../api/events";
import { useAddNote, useChangeNote, useDeleteAthlete, useDeleteNote, useImportMarks, useInvite, useLog } from "./api";
import { AthleteForm } from "./form";
import { Modal } from "../../ui/modal";
import { Head, Key, Notice } from "../../ui/parts";
import { Cue } from "./cue";
import { Entry } from "./entry";
import { Ladders } from "../drills/ladders";
import { AthleteEye } from "../eye/sharing";
import { Series } from "../season/series";
import { Trend, Weighed } from "./trend";
import { dayAndYear as day, today, fixed } from "../../ui/written";
import { useTitle } from "../../ui/title";
import { Opening } from "../../ui/opening";
import { t } from "../../texts/texts";
import { useTakeAway } from "../../ui/undo";
import { usePageKeys } from "../../ui/page_keys";

// On paper the week is dark on white, whatever the theme.
const print = `@media print { @page { margin: 12mm } .screen { display: none !important } html.dark, html.light { color-scheme: light; --chakra-colors-ground: #fff; --chakra-colors-panel: #fff; --chakra-colors-chalk: #151515; --chakra-colors-quiet: #555; --chakra-colors-seam: #bbb; --chakra-colors-clay: #a0401f; --chakra-colors-moss: #3f6a2f; --chakra-colors-amber: #7d5200 } .columns { display: block !important } .week button, .week a[href] { display: none } .onpaper { display: block !important } }`;

/** Athlete is the log: marks, measures over time, cues and their course, notes. */
export default function Athlete() {
  const { id = "" } = useParams();
  const log = useLog(id);
  const go = useNavigate();
  const [at, setAt] = useState<string | null>(null);
  const [open, setOpen] = useState<"entry" | "person" | "delete" | null>(null);
  usePageKeys({ e: () => setOpen("entry"), Escape: () => void go("/") });
  useTitle(log.data?.athlete.name, t("log"));
  if (!log.data) return <Opening what={t("the log")} error={log.error} />;
  const l = log.data;
  const event = l.events.find((e) => e.event === at) ?? l.events[0];
  return (
    <Box as="main" className="grows" minH="100%" maxW="1280px" mx="auto" px={{ base: "12px", md: "20px" }} pb="40px">
      <style>{print}</style>
      <Flex minH="58px" py="6px" wrap="wrap" align="center" gap="10px" className="screen">
        <RouterLink to="/" title={t("Back to the queue")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700">
          {l.athlete.name}
        </Text>
        <Text color="quiet">
          {t("born {born}, {height} m, {mass} kg", {
            born: l.athlete.born,
            height: fixed(l.athlete.height, 2),
            mass: l.athlete.mass,
          })}
        </Text>
        {l.athlete.aim && <Text fontSize="12.5px">{t("season: {aim}", { aim: l.athlete.aim })}</Text>}
        {l.minor && (
          <Text color={l.athlete.consent_on ? "moss" : "amber"} fontSize="12px">
            {l.athlete.consent_on
              ? t("consent by {consentBy}", { consentBy: l.athlete.consent_by })
              : t("no consent noted: nothing can be shared")}
          </Text>
        )}
        <Box flex="1" />
        <Button
          size="xs"
          variant="ghost"
          onClick={() => void go(`/workshop/${id}${event ? `?event=${event.event}` : ""}`)}
        >
          {t("Workshop")}
        </Button>
        <Button size="xs" variant="ghost" onClick={() => void go(`/season/${id}`)}>
          {t("Season")}
        </Button>
        <Button size="xs" variant="ghost" onClick={() => setOpen("person")}>
          {t("Details")}
        </Button>
        <Link href={`/api/athletes/${id}/marks.csv`} download color="quiet" fontSize="12px">
          {t("marks as CSV")}
        </Link>
        <Button size="xs" variant="ghost" onClick={() => window.print()}>
          {t("Print the week’s plan")}
        </Button>
        <Button onClick={() => setOpen("entry")} title={t("Enter results (E)")}>
          {t("Enter results")}
        </Button>
      </Flex>
      <Text className="onpaper" display="none" fontSize="20px" fontWeight="700" mb="12px">
        {t("{name}, week of {day}", { name: l.athlete.name, day: day(today()) })}
      </Text>
      {l.paused && (
        <Notice tone="clay" mb="10px">
          {t(
            "Every change is paused: {paused}. Pain means stop; see a physician or physiotherapist. Mark the note as over when it is.",
            { paused: l.paused },
          )}
        </Notice>
      )}
      {l.events.length === 0 && (
        <>
          <Box bg="panel" borderRadius="panel" p="48px" textAlign="center">
            <Text fontSize="16px" fontWeight="600" mb="4px">
              {t("Nothing in the log yet")}
            </Text>
            <Text color="quiet" mb="16px">
              {t("Type in a session, a line for each attempt, or send a clip from the queue.")}
            </Text>
            <Button onClick={() => setOpen("entry")}>{t("Enter results")}</Button>
          </Box>
          <Box mt="16px" maxW="560px">
            <Notes l={l} />
          </Box>
        </>
      )}
      {event && (
        <>
          <Flex gap="6px" mb="12px" wrap="wrap" className="screen">
            {l.events.map((e) => (
              <Button
                key={e.event}
                size="xs"
                variant="outline"
                bg={e === event ? "raised" : undefined}
                borderColor={e === event ? "chalk" : "seam"}
                onClick={() => setAt(e.event)}
              >
                {events[e.event as EventID]}
                <Text as="span" color="quiet">
                  {e.attempts.length}
                </Text>
              </Button>
            ))}
          </Flex>
          <EventPage key={event.event} l={l} e={event} onOpen={(a) => void go(`/attempt/${a}`)} />
        </>
      )}
      <Modal
        title={t("A session of {name}", { name: l.athlete.name })}
        wide
        focus="input[name=line]"
        open={open === "entry"}
        onClose={() => setOpen(null)}
      >
        <Entry athlete={id} event={(event?.event ?? "hammer") as EventID} onDone={() => setOpen(null)} />
        <CSV />
      </Modal>
      <Modal title={t("Athlete")} open={open === "person"} onClose={() => setOpen(null)}>
        <AthleteForm athlete={l.athlete} onDone={() => setOpen(null)} />
        <Account id={id} />
        <AthleteEye id={id} />
        <Button size="xs" variant="ghost" color="clay" mt="10px" onClick={() => setOpen("delete")}>
          {t("Delete for good …")}
        </Button>
      </Modal>
      <Modal title={t("Delete for good")} open={open === "delete"} onClose={() => setOpen(null)}>
        <Delete l={l} />
      </Modal>
    </Box>
  );
}

function EventPage({ l, e, onOpen }: { l: Log; e: EventLog; onOpen(id: string): void }) {
  const [all, setAll] = useState(false);
  const given = useMemo(() => new Set(e.cues.map((c) => c.attempt_id)), [e.cues]);
  const label = (id: string) => {
    const a = e.attempts.find((x) => x.id === id);
    return a ? [day(a.done_on), a.mark].filter(Boolean).join(", ") : "";
  };
  const measures = all ? e.measures : e.measures.slice(0, 6);
  // What a cue is about comes first.
  const wanted = new Set(e.cues.filter((c) => c.open).map((c) => c.advice.target));
  const sorted = [...measures].sort((a, b) => Number(wanted.has(b.checkpoint)) - Number(wanted.has(a.checkpoint)));
  return (
    <Grid
      className="columns"
      templateColumns={{ base: "minmax(0, 1fr)", lg: "430px minmax(0, 1fr)" }}
      gap="18px"
      alignItems="start"
    >
      <Box display="grid" gap="10px" className="week">
        <Head>{t("Cues and their course")}</Head>
        {e.warnings.map((w) => (
          <Notice key={w}>{w}</Notice>
        ))}
        {e.cues.map((c) => (
          <Cue key={c.attempt_id} c={c} paused={l.paused} onOpen={onOpen} />
        ))}
        {e.cues.length === 0 && (
          <Text color="quiet">{t("No cue yet. Accept a finding on the Bench and pick its cue.")}</Text>
        )}
        <Notes l={l} />
      </Box>
      <Box className="screen">
        <Grid templateColumns={{ base: "minmax(0, 1fr)", md: "repeat(2, minmax(0, 1fr))" }} gap="10px" mb="16px">
          {sorted.map((m) => (
            <Box key={m.checkpoint} bg="panel" borderRadius="panel" p="10px 12px 8px">
              <Text fontSize="12.5px" fontWeight="600" truncate>
                {m.name}
                <Text as="span" color="quiet" fontWeight="400">
                  {m.unit && ` ${m.unit}`}
                </Text>
              </Text>
              <Trend m={m} cues={given} label={label} onOpen={onOpen} />
              <Weighed m={m} />
            </Box>
          ))}
          {e.measures.length === 0 && (
            <Text color="quiet" gridColumn="1 / -1">
              {t("No measure yet: break a clip down on the Bench, and its numbers come here.")}
            </Text>
          )}
        </Grid>
        {e.measures.length > 6 && (
          <Button size="xs" variant="ghost" mb="10px" onClick={() => setAll(!all)}>
            {all ? t("Fewer measures") : t("All {count} measures", { count: e.measures.length })}
          </Button>
        )}
        <Series id={l.athlete.id} event={e.event} />
        <Ladders id={l.athlete.id} event={e.event} />
        <Attempts list={e.attempts} onOpen={onOpen} />
      </Box>
    </Grid>
  );
}

function Attempts({ list, onOpen }: { list: Logged[]; onOpen(id: string): void }) {
  const sessions: [string, Logged[]][] = [];
  for (const a of list) {
    const key = `${day(a.done_on)}${a.session ? `, ${a.session}` : ""}`;
    const last = sessions[sessions.length - 1];
    if (last?.[0] === key) last[1].push(a);
    else sessions.push([key, [a]]);
  }
  return (
    <Flex wrap="wrap" columnGap="22px" data-testid="attempts">
      {sessions.map(([key, own]) => (
        <Box key={key} mb="10px">
          <Text fontSize="12px" color="quiet" mb="3px">
            {key}
            {own[0].implement && ` · ${own[0].implement}`}
            {own[0].setting === "competition" && t(" · competition")}
            {own[0].condition === "tired" && t(" · tired")}
            {own[0].indoor && t(" · indoor")}
          </Text>
          <Often of={own} />
          <Flex wrap="wrap" gap="6px">
            {[...own].reverse().map((a) => (
              <Button
                key={a.id}
                data-logged={a.id}
                size="sm"
                h="auto"
                py="5px"
                px="11px"
                variant="outline"
                borderRadius="panel"
                bg="panel"
                display="block"
                textAlign="left"
                onClick={() => onOpen(a.id)}
                title={[a.foul && `foul: ${a.foul}`, a.note, a.findings.map((f) => f.name).join(", ")]
                  .filter(Boolean)
                  .join("\n")}
              >
                <Text
                  as="span"
                  display="block"
                  fontWeight="650"
                  textDecoration={a.foul ? "line-through" : undefined}
                  color={a.foul ? "quiet" : "chalk"}
                >
                  {a.mark || (a.foul === "passed" ? "–" : a.foul ? t("x") : t("no mark"))}
                  {a.personal ? <Best>{t("PB")}</Best> : a.season ? <Best>{t("SB")}</Best> : null}
                </Text>
                <Text as="span" display="block" fontSize="11px" color="quiet" maxW="120px" truncate>
                  {[
                    a.wind !== undefined && `${a.wind > 0 ? "+" : ""}${fixed(a.wind, 1)}`.replace("-", "−"),
                    a.foul,
                    a.clips > 0 && t("clip"),
                  ]
                    .filter(Boolean)
                    .join(" · ") || " "}
                </Text>
              </Button>
            ))}
          </Flex>
        </Box>
      ))}
    </Flex>
  );
}

/** Often is which fault was found in how many attempts of a session, where it was more than one. */
function Often({ of }: { of: Logged[] }) {
  const looked = of.filter((a) => a.clips > 0);
  const counts = new Map<string, number>();
  for (const a of looked) for (const f of a.findings) counts.set(f.name, (counts.get(f.name) ?? 0) + 1);
  const list = [...counts].filter(([, n]) => n > 1).sort((a, b) => b[1] - a[1]);
  if (list.length === 0) return null;
  return (
    <Text fontSize="11.5px" color="amber" mb="3px" data-testid="often">
      {list
        .slice(0, 3)
        .map(([name, n]) => t("{name}: {n} of {all} filmed", { name, n, all: looked.length }))
        .join(" · ")}
    </Text>
  );
}

const Best = ({ children }: { children: ReactNode }) => (
  <Text as="span" color="amber" fontSize="11px" fontWeight="700" ml="5px">
    {children}
  </Text>
);

function Notes({ l }: { l: Log }) {
  const add = useAddNote();
  const change = useChangeNote();
  const drop = useDeleteNote();
  const { gone, take } = useTakeAway();
  const [says, setSays] = useState("");
  const put = (kind: "note" | "pain") =>
    says.trim() &&
    add.mutate({ athlete: l.athlete.id, kind, noted_on: today(), says: says.trim() }, { onSuccess: () => setSays("") });
  return (
    <Box className="screen" data-testid="notes">
      <Head>{t("Notes")}</Head>
      <Flex gap="6px" mb="6px">
        <Input
          name="note"
          value={says}
          maxLength={2000}
          placeholder={t("a note, or where it hurts")}
          onChange={(e) => setSays(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && put("note")}
        />
        <Button size="sm" variant="outline" onClick={() => put("note")}>
          {t("Note")}
        </Button>
        <Button
          size="sm"
          variant="outline"
          color="clay"
          onClick={() => put("pain")}
          title={t("A pain pauses every change until it is over")}
        >
          {t("Pain")}
        </Button>
      </Flex>
      {l.notes
        .filter((n) => !gone.has(n.id))
        .map((n) => (
          <Flex key={n.id} gap="8px" fontSize="12px" py="3px" align="baseline">
            <Text color={n.kind === "pain" && !n.over_on ? "clay" : "quiet"} w="64px" flexShrink={0}>
              {day(n.noted_on)}
            </Text>
            <Text flex="1">
              {n.kind === "pain" && t("Pain: ")}
              {n.says}
              {n.over_on && (
                <Text as="span" color="moss">
                  {" "}
                  {t("over since {overOn}", { overOn: day(n.over_on) })}
                </Text>
              )}
            </Text>
            {n.kind === "pain" && !n.over_on && (
              <Button
                size="xs"
                h="20px"
                variant="outline"
                onClick={() =>
                  change.mutate({ id: n.id, kind: n.kind, noted_on: n.noted_on, says: n.says, over_on: today() })
                }
              >
                {t("It is over")}
              </Button>
            )}
            <Button
              size="xs"
              h="20px"
              px="6px"
              variant="ghost"
              aria-label={t("Remove this note")}
              onClick={() =>
                take(n.id, t("Note removed: “{says}”", { says: n.says }), (done) =>
                  drop.mutate(n.id, { onSettled: done }),
                )
              }
            >
              ×
            </Button>
          </Flex>
        ))}
      {(add.error ?? change.error ?? drop.error) && (
        <Notice tone="clay">{(add.error ?? change.error ?? drop.error)!.message}</Notice>
      )}
    </Box>
  );
}

/** CSV takes a table of marks in. */
function CSV() {
  const take = useImportMarks();
  const file = useRef<HTMLInputElement>(null);
  return (
    <Box mt="14px" pt="10px" borderTop="1px solid" borderColor="seam" fontSize="12px" color="quiet">
      {t("Or take in a table of marks (CSV) of any athletes of the team:")}{" "}
      <Button size="xs" variant="outline" loading={take.isPending} onClick={() => file.current?.click()}>
        {t("Choose a file")}
      </Button>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        hidden
        data-testid="marks-file"
        onChange={(e) => void e.target.files?.[0]?.text().then((t) => take.mutate(t))}
      />
      {take.data && (
        <Notice tone="moss" mt="8px">
          {t("{added} marks taken in, {already} were there already.", {
            added: take.data.added,
            already: take.data.already,
          })}
        </Notice>
      )}
      {take.error && (
        <Notice tone="clay" mt="8px">
          {take.error.message}
        </Notice>
      )}
    </Box>
  );
}

/** Account invites the athlete to an account that shows what was sent. */
function Account({ id }: { id: string }) {
  const invite = useInvite();
  const link = invite.data && `${location.origin}/join/${invite.data.secret}`;
  return (
    <Box mt="12px" pt="10px" borderTop="1px solid" borderColor="seam" fontSize="12px">
      <Flex align="center" gap="8px">
        <Text flex="1" color="quiet">
          {t("With an account of their own athletes see everything that you sent them, and nothing else.")}
        </Text>
        <Button size="xs" variant="outline" loading={invite.isPending} onClick={() => invite.mutate(id)}>
          {t("Invite")}
        </Button>
      </Flex>
      {link && <Input mt="6px" readOnly value={link} data-testid="invitation" onFocus={(e) => e.target.select()} />}
      {invite.error && (
        <Notice tone="clay" mt="6px">
          {invite.error.message}
        </Notice>
      )}
    </Box>
  );
}

function Delete({ l }: { l: Log }) {
  const drop = useDeleteAthlete();
  const go = useNavigate();
  const [typed, setTyped] = useState("");
  if (drop.data)
    return (
      <>
        <Notice tone={drop.data.left_over ? "clay" : "moss"} mb="10px">
          {t(
            "{attempts} attempts, {clips} clips and {files} files ({bytes} MB) are deleted; {leftOver} files could be found afterwards. A record without the name is kept.",
            {
              attempts: drop.data.attempts,
              clips: drop.data.clips,
              files: drop.data.files,
              bytes: fixed(drop.data.bytes / 1e6, 1),
              leftOver: drop.data.left_over || t("no"),
            },
          )}
        </Notice>
        <Button onClick={() => void go("/")}>{t("Back to the queue")}</Button>
      </>
    );
  return (
    <>
      <Text mb="8px">
        {t(
          "All attempts, clips, points, notes, links and the account of {name} go. This cannot be undone. Type the name to go on.",
          { name: l.athlete.name },
        )}
      </Text>
      <Flex gap="8px">
        <Input data-testid="whom" value={typed} onChange={(e) => setTyped(e.target.value)} />
        <Button
          data-testid="for-good"
          disabled={typed.trim() !== l.athlete.name}
          loading={drop.isPending}
          onClick={() => drop.mutate(l.athlete.id)}
        >
          {t("Delete for good")}
        </Button>
      </Flex>
      <Text fontSize="11.5px" color="quiet" mt="8px">
        <Key>{t("Esc")}</Key> {t("leaves everything as it is.")}
      </Text>
      {drop.error && <Notice tone="clay">{drop.error.message}</Notice>}
    </>
  );
}
