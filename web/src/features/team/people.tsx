import { Box, Button, Flex, Grid, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import type { Me } from "../../api/client";
import { andThen } from "../../api/topic";
import {
  useAudit,
  useChangePassword,
  useDeleteMe,
  useDeleteTeam,
  useDropInvitation,
  useEndSession,
  useInvitations,
  useInviteColleague,
  useMembers,
  useRemoveMember,
  useResetMember,
  useSessions,
  useSetRole,
  useSignOutElsewhere,
} from "./api";
import { useSignOut } from "../account/api";
import { goodPassword } from "../account/door";
import { Once } from "../../ui/once";
import { Head, Notice } from "../../ui/parts";
import { t } from "../../texts/texts";
import { fixed, moment } from "../../ui/written";

type User = NonNullable<Me["user"]>;

const can = {
  owner: t("everything, and who is in the team"),
  coach: t("everything but decide who is in the team"),
  assistant: t("look and place points; share, export and delete nothing"),
  athlete: t("see what was sent"),
};

const Row = ({ children }: { children: ReactNode }) => (
  <Flex bg="panel" borderRadius="panel" p="7px 14px" mb="5px" align="center" gap="4px 10px" minH="38px" wrap="wrap">
    {children}
  </Flex>
);

/** Accounts are those who work in the team, and who is invited. */
export function Accounts({ me }: { me: User }) {
  const owner = me.role === "owner";
  const members = useMembers();
  const invitations = useInvitations(me.role !== "assistant");
  const invite = useInviteColleague();
  const drop = useDropInvitation();
  const setRole = useSetRole();
  const remove = useRemoveMember();
  const reset = useResetMember();
  const [f, setF] = useState<{ email: string; role: "coach" | "assistant" }>({ email: "", role: "coach" });
  const [sure, setSure] = useState("");
  const error = invite.error ?? drop.error ?? setRole.error ?? remove.error ?? reset.error;
  return (
    <Box data-testid="accounts">
      <Head>{t("Accounts of this team")}</Head>
      {error && (
        <Notice tone="clay" mb="8px">
          {error.message}
        </Notice>
      )}
      {reset.data && (
        <Once
          says={t("Hand this link over within two hours; it leads to a new password.")}
          path={"/reset/" + reset.data.secret}
        />
      )}
      {members.data?.map((m) => (
        <Row key={m.id}>
          <Box flex="1 1 180px" minW="0">
            <Text fontWeight="600" truncate>
              {m.name}
              {m.id === me.id && (
                <Text as="span" color="quiet" fontWeight="400">
                  {" "}
                  {t("(you)")}
                </Text>
              )}
            </Text>
            <Text color="quiet" fontSize="11.5px" truncate>
              {m.email}, {m.seen_at ? t("seen ") + moment(m.seen_at) : t("not seen yet")}
            </Text>
          </Box>
          {owner && m.role !== "athlete" ? (
            <NativeSelect.Root size="xs" w="112px">
              <NativeSelect.Field
                aria-label={t("What {name} may do", { name: m.name })}
                value={m.role}
                onChange={(e) => setRole.mutate({ id: m.id, role: e.target.value as "owner" })}
              >
                <option value="owner">{t("owner")}</option>
                <option value="coach">{t("coach")}</option>
                <option value="assistant">{t("assistant")}</option>
              </NativeSelect.Field>
              <NativeSelect.Indicator />
            </NativeSelect.Root>
          ) : (
            <Text color="quiet" fontSize="12px" title={can[m.role]}>
              {m.role}
            </Text>
          )}
          {owner && m.id !== me.id && (
            <>
              <Button
                size="xs"
                h="24px"
                variant="ghost"
                title={t("Make a link to a new password and hand it over")}
                onClick={() => reset.mutate(m.id)}
              >
                {t("New password")}
              </Button>
              <Button
                size="xs"
                h="24px"
                variant={sure === m.id ? "solid" : "ghost"}
                onClick={() => (sure === m.id ? remove.mutate(m.id, { onSettled: () => setSure("") }) : setSure(m.id))}
              >
                {sure === m.id ? t("Really remove") : t("Remove")}
              </Button>
            </>
          )}
        </Row>
      ))}
      {!!invitations.data?.length && (
        <Text color="quiet" fontSize="12px" mt="8px" mb="4px">
          {t("Invited")}
        </Text>
      )}
      {invitations.data?.map((i) => (
        <Row key={i.id}>
          <Text flex="1" truncate>
            {i.athlete || i.email || t("by a link")}
          </Text>
          <Text color="quiet" fontSize="12px">
            {t("{role}, until {expiresAt}", { role: i.role, expiresAt: moment(i.expires_at) })}
          </Text>
          {owner && (
            <Button size="xs" h="24px" variant="ghost" onClick={() => drop.mutate(i.id)}>
              {t("Take back")}
            </Button>
          )}
        </Row>
      ))}
      {owner && (
        <Box mt="8px">
          {invite.data && !invite.data.sent && (
            <Once
              says={t("Give this link to {email}.", { email: invite.variables?.email })}
              path={"/join/" + invite.data.secret}
            />
          )}
          {invite.data?.sent && (
            <Notice tone="moss" mb="8px">
              {t("A letter is on its way to {email}.", { email: invite.variables?.email })}
            </Notice>
          )}
          <form
            onSubmit={(e) => {
              e.preventDefault();
              invite.mutate(f, { onSuccess: () => setF({ ...f, email: "" }) });
            }}
          >
            <Flex gap="8px" wrap={{ base: "wrap", md: "nowrap" }}>
              <Input
                name="invite"
                type="email"
                placeholder={t("e-mail of a colleague")}
                value={f.email}
                required
                onChange={(e) => setF({ ...f, email: e.target.value })}
              />
              <NativeSelect.Root size="sm" w="120px" flexShrink={0}>
                <NativeSelect.Field
                  h="32px"
                  aria-label={t("Invite as")}
                  value={f.role}
                  onChange={(e) => setF({ ...f, role: e.target.value as "coach" })}
                >
                  <option value="coach">{t("coach")}</option>
                  <option value="assistant">{t("assistant")}</option>
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
              <Button type="submit" loading={invite.isPending}>
                {t("Invite")}
              </Button>
            </Flex>
          </form>
          <Text color="quiet" fontSize="11.5px" mt="4px">
            {t(
              "A coach may do everything but decide who is in the team. An assistant looks and places points, and shares, exports and deletes nothing.",
            )}
          </Text>
        </Box>
      )}
    </Box>
  );
}

/** Mine is the own account: password, devices, leaving. */
export function Own({ me }: { me: User }) {
  const sessions = useSessions();
  const end = useEndSession();
  const elsewhere = useSignOutElsewhere();
  const change = useChangePassword();
  const out = useSignOut();
  const leave = useDeleteMe();
  const erase = useDeleteTeam();
  const [f, setF] = useState({ old: "", new: "" });
  const [going, setGoing] = useState<"" | "account" | "team">("");
  const [proof, setProof] = useState({ password: "", team: "" });
  const gone = erase.data;
  if (gone)
    return (
      <Notice tone="moss">
        {t(
          "The team is deleted for good: {attempts} attempts, {clips} clips, {files} files ({bytes} MB); {leftOver} left over. Keep this page if you need it as proof, then close it.",
          {
            attempts: gone.attempts,
            clips: gone.clips,
            files: gone.files,
            bytes: fixed(gone.bytes / 1e6, 1),
            leftOver: gone.left_over,
          },
        )}
      </Notice>
    );
  return (
    <Box data-testid="own">
      <Head
        right={
          <Button
            size="xs"
            h="24px"
            variant="outline"
            loading={out.isPending}
            onClick={() => andThen(out.mutateAsync(undefined), () => location.assign("/"))}
          >
            {t("Sign out")}
          </Button>
        }
      >
        {t("Your account")}
      </Head>
      {sessions.data?.map((s) => (
        <Row key={s.id}>
          <Box flex="1" minW="0">
            <Text truncate title={s.agent}>
              {browser(s.agent)}
              {s.here && (
                <Text as="span" color="moss">
                  {" "}
                  {t("here")}
                </Text>
              )}
            </Text>
            <Text color="quiet" fontSize="11.5px">
              {t("{address}, seen {seenAt}", { address: s.address, seenAt: moment(s.seen_at) })}
            </Text>
          </Box>
          {!s.here && (
            <Button size="xs" h="24px" variant="ghost" onClick={() => end.mutate(s.id)}>
              {t("Sign out")}
            </Button>
          )}
        </Row>
      ))}
      {(sessions.data?.length ?? 0) > 1 && (
        <Button size="xs" variant="outline" loading={elsewhere.isPending} onClick={() => elsewhere.mutate(undefined)}>
          {t("Sign out everywhere but here")}
        </Button>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate(f, { onSuccess: () => setF({ old: "", new: "" }) });
        }}
      >
        <Text color="quiet" fontSize="12px" mt="12px" mb="4px">
          {t("Change the password")}
        </Text>
        <Grid templateColumns={{ base: "1fr", sm: "1fr 1fr auto" }} gap="8px">
          <Input
            name="old"
            type="password"
            placeholder={t("current password")}
            autoComplete="current-password"
            value={f.old}
            required
            onChange={(e) => setF({ ...f, old: e.target.value })}
          />
          <Input
            name="new"
            type="password"
            placeholder={t("new password")}
            aria-label={t("New password")}
            title={goodPassword}
            autoComplete="new-password"
            value={f.new}
            required
            minLength={10}
            onChange={(e) => setF({ ...f, new: e.target.value })}
          />
          <Button type="submit" variant="outline" loading={change.isPending}>
            {t("Change")}
          </Button>
        </Grid>
        {change.error && (
          <Notice tone="clay" mt="6px">
            {change.error.message}
          </Notice>
        )}
        {change.isSuccess && (
          <Notice tone="moss" mt="6px">
            {t("Changed. Other devices are signed out.")}
          </Notice>
        )}
      </form>
      <Flex gap="8px" mt="12px">
        <Button size="xs" variant="ghost" onClick={() => setGoing(going === "account" ? "" : "account")}>
          {t("Leave the team …")}
        </Button>
        {me.role === "owner" && (
          <Button size="xs" variant="ghost" color="clay" onClick={() => setGoing(going === "team" ? "" : "team")}>
            {t("Delete the team …")}
          </Button>
        )}
      </Flex>
      {going && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (going === "team") erase.mutate(proof);
            else andThen(leave.mutateAsync(proof.password), () => location.assign("/"));
          }}
        >
          <Box bg="panel" borderRadius="panel" p="12px 14px" mt="8px" display="grid" gap="8px">
            <Text fontSize="12.5px">
              {going === "team"
                ? t(
                    "Everything of {team} goes for good: athletes, attempts, clips, films, accounts. Export the team first if anybody may want it back.",
                    { team: me.team },
                  )
                : t("Your account goes for good. What you did on attempts stays with the team.")}
            </Text>
            {going === "team" && (
              <Input
                name="team-name"
                placeholder={t("type {team}", { team: me.team })}
                value={proof.team}
                required
                onChange={(e) => setProof({ ...proof, team: e.target.value })}
              />
            )}
            <Input
              name="proof"
              type="password"
              placeholder={t("your password")}
              autoComplete="current-password"
              value={proof.password}
              required
              onChange={(e) => setProof({ ...proof, password: e.target.value })}
            />
            {(leave.error ?? erase.error) && <Notice tone="clay">{(leave.error ?? erase.error)?.message}</Notice>}
            <Button type="submit" loading={leave.isPending || erase.isPending}>
              {going === "team" ? t("Delete the team for good") : t("Delete my account")}
            </Button>
          </Box>
        </form>
      )}
    </Box>
  );
}

/** browser names what a browser says of itself. */
function browser(agent: string) {
  const kind = /Firefox|Edg|OPR|Chrom|Safari/.exec(agent)?.[0] ?? "";
  const name =
    (
      { Firefox: "Firefox", Edg: "Edge", OPR: "Opera", Chrom: t("Chromium or Chrome"), Safari: "Safari" } as Record<
        string,
        string
      >
    )[kind] ?? t("Another program");
  const on = /Android|iPhone|iPad|Windows|Macintosh|Linux/.exec(agent)?.[0];
  return on ? t("{name} on {which}", { name, which: on === "Macintosh" ? t("a Mac") : on }) : name;
}

/** Audit tells who came in and what left the house. */
export function Audit() {
  const audit = useAudit(true);
  const [all, setAll] = useState(false);
  const list = audit.data ?? [];
  return (
    <Box data-testid="audit">
      <Head>{t("Who came in, and what left the house")}</Head>
      {list.slice(0, all ? undefined : 8).map((e, i) => (
        <Flex key={i} fontSize="12px" gap="8px">
          <Text color="quiet" w="92px" flexShrink={0}>
            {moment(e.at)}
          </Text>
          <Text flex="1" minW="0" truncate title={`${e.about} ${e.address}`}>
            {e.who || t("somebody")} {e.what}
            {/@/.test(e.about) ? ` (${e.about})` : ""}
          </Text>
          <Text color="quiet">{e.address}</Text>
        </Flex>
      ))}
      {list.length > 8 && (
        <Button size="xs" variant="ghost" mt="4px" onClick={() => setAll(!all)}>
          {all ? t("Fewer") : t("All {count}", { count: list.length })}
        </Button>
      )}
    </Box>
  );
}
