import { Box, Button, Flex, Grid, Input, Link, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Link as RouterLink } from "react-router";
import { useAthletes } from "../athlete/api";
import { useDeletions, useImportTeam, useRoom } from "./api";
import { useKeepPhrase, usePhrases } from "../workspace/api";
import { useLibrary } from "../compare/api";
import type { Me } from "../../api/client";
import { AthleteForm } from "../athlete/form";
import { Modal } from "../../ui/modal";
import { Head, Notice } from "../../ui/parts";
import { Accounts, Audit, Own } from "./people";
import { dayAndYear as day, fixed } from "../../ui/written";
import { useTitle } from "../../ui/title";
import { t } from "../../texts/texts";
import { useTakeAway } from "../../ui/undo";

const gigabytes = (bytes: number) => (bytes < 1e8 ? `${Math.round(bytes / 1e6)} MB` : `${fixed(bytes / 1e9, 1)} GB`);

/** Team is about people, consent, accounts, export and what was deleted. */
export default function Team({ me }: { me: NonNullable<Me["user"]> }) {
  const coach = me.role !== "assistant";
  const athletes = useAthletes();
  const deletions = useDeletions(coach);
  const library = useLibrary();
  const phrases = usePhrases();
  const keep = useKeepPhrase();
  const take = useImportTeam();
  const room = useRoom();
  const away = useTakeAway();
  const [adding, setAdding] = useState(false);
  useTitle(t("Team"));
  const [says, setSays] = useState("");
  const [find, setFind] = useState("");
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const found = (athletes.data ?? []).filter((a) =>
    words.every((x) => [a.name, String(a.born), a.consent_by].some((of) => of?.toLowerCase().includes(x))),
  );
  const year = new Date().getFullYear();
  return (
    <Box as="main" className="grows" minH="100%" maxW="1280px" mx="auto" px="20px" pb="40px">
      <Flex h="58px" align="center" gap="10px">
        <RouterLink to="/" title={t("Back to the queue")} aria-label={t("Back to the queue")}>
          <img src="/mark.svg" width={26} height={26} alt="" />
        </RouterLink>
        <Text as="h1" fontSize="17px" fontWeight="700" flex="1">
          {me.team}
        </Text>
        {coach && <Button onClick={() => setAdding(true)}>{t("Add athlete")}</Button>}
      </Flex>
      <Grid
        templateColumns={{ base: "minmax(0, 1fr)", lg: "minmax(0, 1.5fr) minmax(0, 1fr)" }}
        gap="22px"
        alignItems="start"
      >
        <Box>
          <Head>{t("People and consent")}</Head>
          {(athletes.data?.length ?? 0) > 8 && (
            <Input
              size="sm"
              mb="8px"
              name="find"
              aria-label={t("Search athletes")}
              placeholder={t("search by name, year of birth or guardian")}
              value={find}
              onChange={(e) => setFind(e.target.value)}
            />
          )}
          {athletes.data && found.length === 0 && find && <Text color="quiet">{t("Nobody fits.")}</Text>}
          <Box role="list" aria-label={t("Athletes")}>
            {found.map((a) => {
              const minor = year - a.born <= 18;
              return (
                <Flex
                  key={a.id}
                  bg="panel"
                  borderRadius="panel"
                  p="8px 14px"
                  minH="44px"
                  align="center"
                  mb="5px"
                  position="relative"
                  _hover={{ bg: "raised" }}
                  role="listitem"
                >
                  <Box w={{ base: "150px", lg: "220px" }}>
                    <RouterLink className="stretched" to={`/athlete/${a.id}`}>
                      {a.name}
                    </RouterLink>
                  </Box>
                  <Text w={{ base: "52px", lg: "90px" }} color="quiet">
                    {a.born}
                  </Text>
                  <Text flex="1" fontSize="12px" color={!minor ? "quiet" : a.consent_on ? "moss" : "amber"}>
                    {!minor
                      ? t("adult")
                      : a.consent_on
                        ? t("{consentBy} agreed on {consentOn}", {
                            consentBy: a.consent_by,
                            consentOn: day(a.consent_on),
                          })
                        : t("minor, no consent on file: sharing is off")}
                  </Text>
                </Flex>
              );
            })}
          </Box>
          <Box mt="22px">
            <Accounts me={me} />
          </Box>
          {coach && (
            <Box mt="22px">
              <Audit />
            </Box>
          )}
        </Box>
        <Box display="grid" gap="20px" gridTemplateColumns="minmax(0, 1fr)">
          <Own me={me} />
          <Box hidden={!coach}>
            <Head>{t("Everything in one archive")}</Head>
            <Text color="quiet" fontSize="12.5px" mb="8px">
              {t(
                "Athletes, attempts, clips, points, models and notes as JSON, CSV, WebVTT and video. It can be read without Neokinema, and taken into an empty team.",
              )}
            </Text>
            <Flex gap="8px" align="center" wrap="wrap">
              <Button asChild variant="outline" size="xs">
                <Link href="/api/team/export.zip" download>
                  {t("Export the team")}
                </Link>
              </Button>
              <Button asChild variant="outline" size="xs">
                <Link href="/api/marks.csv" download>
                  {t("All marks as CSV")}
                </Link>
              </Button>
              <Button asChild variant="outline" size="xs" loading={take.isPending} hidden={me.role !== "owner"}>
                <label style={{ cursor: "pointer" }}>
                  {take.isPending ? t("Importing …") : t("Import an archive")}
                  <input
                    type="file"
                    accept=".zip"
                    data-testid="archive"
                    style={{ position: "absolute", width: 1, height: 1, opacity: 0 }}
                    onChange={(e) => e.target.files?.[0] && take.mutate(e.target.files[0])}
                  />
                </label>
              </Button>
            </Flex>
            {room.data && (
              <Text color="quiet" fontSize="12.5px" mt="8px" data-testid="room">
                {t("Clips take {used}", { used: gigabytes(room.data.used) })}
                {room.data.quota > 0 && t(" of {quota}", { quota: gigabytes(room.data.quota) })}.{" "}
                {room.data.keep_days > 0 && (
                  <Text as="span" color="amber">
                    {t(
                      "Each goes for good {keepDays} days after it came; its points go with it, marks, cues and notes stay.",
                      { keepDays: room.data.keep_days },
                    )}
                  </Text>
                )}
              </Text>
            )}
            {take.error && (
              <Notice tone="clay" mt="8px">
                {take.error.message}
              </Notice>
            )}
            {take.data && (
              <Notice tone="moss" mt="8px">
                {t("{athletes} athletes, {attempts} attempts and {clips} clips are here.", {
                  athletes: take.data.athletes,
                  attempts: take.data.attempts,
                  clips: take.data.clips,
                })}
                {take.data.left_out > 0 &&
                  t(" {leftOut} decisions could not be read and were left out.", { leftOut: take.data.left_out })}
              </Notice>
            )}
          </Box>
          <Box>
            <Head>{t("Reference library")}</Head>
            {library.data?.map((r) => (
              <Text key={r.attempt_id} fontSize="12.5px">
                <RouterLink to={`/attempt/${r.attempt_id}`} style={{ color: "inherit" }}>
                  <b>{r.name}</b>
                </RouterLink>{" "}
                <Text as="span" color="quiet">
                  {r.athlete}, {r.mark}, {day(r.done_on)}
                </Text>
              </Text>
            ))}
            {library.data?.length === 0 && (
              <Text color="quiet" fontSize="12.5px">
                {t("Empty. Name an attempt from the quick look in the queue.")}
              </Text>
            )}
          </Box>
          <Box>
            <Head>{t("Your phrases")}</Head>
            <Text color="quiet" fontSize="12.5px" mb="6px">
              {t("They are offered where you write a message to the athlete.")}
            </Text>
            <Input
              name="phrase"
              value={says}
              maxLength={500}
              placeholder={t("add one")}
              onChange={(e) => setSays(e.target.value)}
              onKeyDown={(e) =>
                e.key === "Enter" && says.trim() && keep.mutate({ says, keep: true }, { onSuccess: () => setSays("") })
              }
              mb="6px"
            />
            {phrases.data
              ?.filter((p) => !away.gone.has(p))
              .map((p) => (
                <Flex key={p} fontSize="12.5px" gap="8px">
                  <Text flex="1">{p}</Text>
                  <Button
                    size="xs"
                    h="20px"
                    px="6px"
                    variant="ghost"
                    aria-label={t("Remove this phrase")}
                    onClick={() =>
                      away.take(p, t("Phrase removed: “{phrase}”", { phrase: p }), (done) =>
                        keep.mutate({ says: p, keep: false }, { onSettled: done }),
                      )
                    }
                  >
                    ×
                  </Button>
                </Flex>
              ))}
          </Box>
          <Box hidden={!coach}>
            <Head>{t("Deleted for good")}</Head>
            {deletions.data?.map((d) => (
              <Text key={d.at} fontSize="12px" color="quiet">
                {t(
                  "{at}: {what} with {attempts} attempts, {clips} clips, {files} files ({bytes} MB); {leftOver} left over",
                  {
                    at: day(d.at),
                    what: d.what.replace("_", " "),
                    attempts: d.attempts,
                    clips: d.clips,
                    files: d.files,
                    bytes: fixed(d.bytes / 1e6, 1),
                    leftOver: d.left_over,
                  },
                )}
              </Text>
            ))}
            {deletions.data?.length === 0 && (
              <Text color="quiet" fontSize="12.5px">
                {t("Nothing yet.")}
              </Text>
            )}
          </Box>
        </Box>
      </Grid>
      <Modal title={t("Athlete")} open={adding} onClose={() => setAdding(false)}>
        <AthleteForm onDone={() => setAdding(false)} />
      </Modal>
    </Box>
  );
}
