import { Box, Button, Flex, Grid, Input, NativeSelect, Text } from "@chakra-ui/react";
import { useState, type ReactNode } from "react";
import type { Me } from "../../api/client";
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
import { Head, Notice } from "../../ui/parts";

type User = NonNullable<Me["user"]>;

const when = (iso: string) =>
  new Date(iso).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

const can = {
  owner: "everything, and who is in the team",
  coach: "everything but decide who is in the team",
  assistant: "look and place points; share, export and delete nothing",
  athlete: "see what was sent",
};

const Row = ({ children }: { children: ReactNode }) => (
  <Flex bg="panel" borderRadius="panel" p="7px 14px" mb="5px" align="center" gap="4px 10px" minH="38px" wrap="wrap">
    {children}
  </Flex>
);

/** Once shows a link that is told once. */
const Once = ({ says, path }: { says: string; path: string }) => {
  const link = location.origin + path;
  return (
    <Notice tone="moss" mb="8px">
      <Box>
        {says} It is shown once.
        <Flex gap="8px" mt="4px" align="center">
          <Text fontFamily="mono" fontSize="11.5px" overflowWrap="anywhere" data-testid="once">
            {link}
          </Text>
          <Button size="2xs" variant="outline" onClick={() => void navigator.clipboard?.writeText(link)}>
            copy
          </Button>
        </Flex>
      </Box>
    </Notice>
  );
};

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
      <Head>Accounts of this team</Head>
      {error && (
        <Notice tone="clay" mb="8px">
          {error.message}
        </Notice>
      )}
      {reset.data && (
        <Once
          says="Hand this link over within two hours; it leads to a new password."
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
                  (you)
                </Text>
              )}
            </Text>
            <Text color="quiet" fontSize="11.5px" truncate>
              {m.email}, {m.seen_at ? "seen " + when(m.seen_at) : "not seen yet"}
            </Text>
          </Box>
          {owner && m.role !== "athlete" ? (
            <NativeSelect.Root size="xs" w="112px">
              <NativeSelect.Field
                aria-label={`What ${m.name} may do`}
                value={m.role}
                onChange={(e) => setRole.mutate({ id: m.id, role: e.target.value as "owner" })}
              >
                <option value="owner">owner</option>
                <option value="coach">coach</option>
                <option value="assistant">assistant</option>
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
                title="Make a link to a new password and hand it over"
                onClick={() => reset.mutate(m.id)}
              >
                new password
              </Button>
              <Button
                size="xs"
                h="24px"
                variant={sure === m.id ? "solid" : "ghost"}
                onClick={() => (sure === m.id ? remove.mutate(m.id, { onSettled: () => setSure("") }) : setSure(m.id))}
              >
                {sure === m.id ? "really remove" : "remove"}
              </Button>
            </>
          )}
        </Row>
      ))}
      {!!invitations.data?.length && (
        <Text color="quiet" fontSize="12px" mt="8px" mb="4px">
          Invited
        </Text>
      )}
      {invitations.data?.map((i) => (
        <Row key={i.id}>
          <Text flex="1" truncate>
            {i.athlete || i.email || "by a link"}
          </Text>
          <Text color="quiet" fontSize="12px">
            {i.role}, until {when(i.expires_at)}
          </Text>
          {owner && (
            <Button size="xs" h="24px" variant="ghost" onClick={() => drop.mutate(i.id)}>
              take back
            </Button>
          )}
        </Row>
      ))}
      {owner && (
        <Box mt="8px">
          {invite.data && !invite.data.sent && (
            <Once says={`Give this link to ${invite.variables?.email}.`} path={"/join/" + invite.data.secret} />
          )}
          {invite.data?.sent && (
            <Notice tone="moss" mb="8px">
              A letter is on its way to {invite.variables?.email}.
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
                placeholder="e-mail of a colleague"
                value={f.email}
                required
                onChange={(e) => setF({ ...f, email: e.target.value })}
              />
              <NativeSelect.Root size="sm" w="120px" flexShrink={0}>
                <NativeSelect.Field
                  h="32px"
                  aria-label="Invite as"
                  value={f.role}
                  onChange={(e) => setF({ ...f, role: e.target.value as "coach" })}
                >
                  <option value="coach">coach</option>
                  <option value="assistant">assistant</option>
                </NativeSelect.Field>
                <NativeSelect.Indicator />
              </NativeSelect.Root>
              <Button type="submit" loading={invite.isPending}>
                Invite
              </Button>
            </Flex>
          </form>
          <Text color="quiet" fontSize="11.5px" mt="4px">
            A coach may do everything but decide who is in the team. An assistant looks and places points, and shares,
            exports and deletes nothing.
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
        The team is deleted for good: {gone.attempts} attempts, {gone.clips} clips, {gone.files} files (
        {(gone.bytes / 1e6).toFixed(1)} MB); {gone.left_over} left over. Keep this page if you need it as proof, then
        close it.
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
            onClick={() => out.mutate(undefined, { onSuccess: () => location.assign("/") })}
          >
            sign out
          </Button>
        }
      >
        Your account
      </Head>
      {sessions.data?.map((s) => (
        <Row key={s.id}>
          <Box flex="1" minW="0">
            <Text truncate title={s.agent}>
              {browser(s.agent)}
              {s.here && (
                <Text as="span" color="moss">
                  {" "}
                  here
                </Text>
              )}
            </Text>
            <Text color="quiet" fontSize="11.5px">
              {s.address}, seen {when(s.seen_at)}
            </Text>
          </Box>
          {!s.here && (
            <Button size="xs" h="24px" variant="ghost" onClick={() => end.mutate(s.id)}>
              sign out
            </Button>
          )}
        </Row>
      ))}
      {(sessions.data?.length ?? 0) > 1 && (
        <Button size="xs" variant="outline" loading={elsewhere.isPending} onClick={() => elsewhere.mutate(undefined)}>
          sign out everywhere but here
        </Button>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          change.mutate(f, { onSuccess: () => setF({ old: "", new: "" }) });
        }}
      >
        <Text color="quiet" fontSize="12px" mt="12px" mb="4px">
          Change the password
        </Text>
        <Grid templateColumns={{ base: "1fr", sm: "1fr 1fr auto" }} gap="8px">
          <Input
            name="old"
            type="password"
            placeholder="current password"
            autoComplete="current-password"
            value={f.old}
            required
            onChange={(e) => setF({ ...f, old: e.target.value })}
          />
          <Input
            name="new"
            type="password"
            placeholder="new password"
            aria-label="New password"
            title={goodPassword}
            autoComplete="new-password"
            value={f.new}
            required
            minLength={10}
            onChange={(e) => setF({ ...f, new: e.target.value })}
          />
          <Button type="submit" variant="outline" loading={change.isPending}>
            Change
          </Button>
        </Grid>
        {change.error && (
          <Notice tone="clay" mt="6px">
            {change.error.message}
          </Notice>
        )}
        {change.isSuccess && (
          <Notice tone="moss" mt="6px">
            Changed. Other devices are signed out.
          </Notice>
        )}
      </form>
      <Flex gap="8px" mt="12px">
        <Button size="xs" variant="ghost" onClick={() => setGoing(going === "account" ? "" : "account")}>
          leave the team …
        </Button>
        {me.role === "owner" && (
          <Button size="xs" variant="ghost" color="clay" onClick={() => setGoing(going === "team" ? "" : "team")}>
            delete the team …
          </Button>
        )}
      </Flex>
      {going && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (going === "team") erase.mutate(proof);
            else leave.mutate(proof.password, { onSuccess: () => location.assign("/") });
          }}
        >
          <Box bg="panel" borderRadius="panel" p="12px 14px" mt="8px" display="grid" gap="8px">
            <Text fontSize="12.5px">
              {going === "team"
                ? `Everything of ${me.team} goes for good: athletes, attempts, clips, films, accounts. Export the team first if anybody may want it back.`
                : "Your account goes for good. What you did on attempts stays with the team."}
            </Text>
            {going === "team" && (
              <Input
                name="team-name"
                placeholder={`type ${me.team}`}
                value={proof.team}
                required
                onChange={(e) => setProof({ ...proof, team: e.target.value })}
              />
            )}
            <Input
              name="proof"
              type="password"
              placeholder="your password"
              autoComplete="current-password"
              value={proof.password}
              required
              onChange={(e) => setProof({ ...proof, password: e.target.value })}
            />
            {(leave.error ?? erase.error) && <Notice tone="clay">{(leave.error ?? erase.error)?.message}</Notice>}
            <Button type="submit" loading={leave.isPending || erase.isPending}>
              {going === "team" ? "Delete the team for good" : "Delete my account"}
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
      { Firefox: "Firefox", Edg: "Edge", OPR: "Opera", Chrom: "Chromium or Chrome", Safari: "Safari" } as Record<
        string,
        string
      >
    )[kind] ?? "Another program";
  const on = /Android|iPhone|iPad|Windows|Macintosh|Linux/.exec(agent)?.[0];
  return on ? `${name} on ${on === "Macintosh" ? "a Mac" : on}` : name;
}

/** Audit tells who came in and what left the house. */
export function Audit() {
  const audit = useAudit(true);
  const [all, setAll] = useState(false);
  const list = audit.data ?? [];
  return (
    <Box data-testid="audit">
      <Head>Who came in, and what left the house</Head>
      {list.slice(0, all ? undefined : 8).map((e, i) => (
        <Flex key={i} fontSize="12px" gap="8px">
          <Text color="quiet" w="92px" flexShrink={0}>
            {when(e.at)}
          </Text>
          <Text flex="1" minW="0" truncate title={`${e.about} ${e.address}`}>
            {e.who || "somebody"} {e.what}
            {/@/.test(e.about) ? ` (${e.about})` : ""}
          </Text>
          <Text color="quiet">{e.address}</Text>
        </Flex>
      ))}
      {list.length > 8 && (
        <Button size="xs" variant="ghost" mt="4px" onClick={() => setAll(!all)}>
          {all ? "fewer" : `all ${list.length}`}
        </Button>
      )}
    </Box>
  );
}
