import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useEffect, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { andThen } from "../../api/topic";
import { useConfirm, useForgot, useInvitee, useJoin, useLetters, useMe, useReset } from "./api";
import { Notice } from "../../ui/parts";
import { Door, DoorForm, Field, goodPassword, Small } from "./door";
import { t } from "../../texts/texts";
import { hour } from "../../ui/written";

// The ways in beside signing in: a new password, an invitation, a team begun by letter.

export function Forgot() {
  const forgot = useForgot();
  const me = useMe();
  const go = useNavigate();
  const [email, setEmail] = useState("");
  return (
    <Door says={t("A new password comes by letter.")}>
      {me.data && !me.data.letters ? (
        <Notice>
          {t(
            "This server sends no letters. The owner of your team can give you a link to a new password (screen Team), or whoever runs the server can.",
          )}
        </Notice>
      ) : forgot.isSuccess ? (
        <Notice tone="moss">
          {t("If {email} has an account, a letter with a link is on its way. The link lives two hours.", { email })}
        </Notice>
      ) : (
        <DoorForm onSubmit={() => forgot.mutate(email)} error={forgot.error}>
          <Field name="email" label={t("E-mail")} type="email" complete="email" value={email} set={setEmail} />
          <Button type="submit" loading={forgot.isPending}>
            {t("Send me a letter")}
          </Button>
        </DoorForm>
      )}
      <Flex mt="10px" gap="4px">
        <Small onClick={() => void go("/")}>{t("Back to the door")}</Small>
        {me.data?.demo && <Small onClick={() => void go("/letters")}>{t("Letters of this demo")}</Small>}
      </Flex>
    </Door>
  );
}

export function Reset() {
  const { secret = "" } = useParams();
  const reset = useReset();
  const go = useNavigate();
  const [password, setPassword] = useState("");
  return (
    <Door says={t("Choose a new password. It signs you out on every other device.")}>
      <DoorForm
        onSubmit={() => andThen(reset.mutateAsync({ secret, password }), () => void go("/"))}
        error={reset.error}
      >
        <Field
          name="password"
          label={t("New password")}
          type="password"
          complete="new-password"
          help={goodPassword}
          value={password}
          set={setPassword}
        />
        <Button type="submit" loading={reset.isPending}>
          {t("Set it and sign in")}
        </Button>
      </DoorForm>
    </Door>
  );
}

/** Begin answers the letter by which a team is begun; its link's secret does not reach a log. */
export function Begin() {
  const confirm = useConfirm();
  const go = useNavigate();
  const begun = useRef(false);
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    andThen(confirm.mutateAsync(location.hash.slice(1)), () => void go("/", { replace: true }));
  }, [confirm, go]);
  return (
    <Door says={t("Your team begins.")}>{confirm.error && <Notice tone="clay">{confirm.error.message}</Notice>}</Door>
  );
}

const roles = {
  coach: t("as a coach"),
  assistant: t("as an assistant: you look and place points, and share nothing"),
  athlete: "",
};

export function Join() {
  const { secret = "" } = useParams();
  const invitee = useInvitee(secret);
  const join = useJoin();
  const go = useNavigate();
  const [f, setF] = useState({ name: "", email: "", password: "" });
  const put = (k: keyof typeof f) => (v: string) => setF({ ...f, [k]: v });
  const i = invitee.data;
  useEffect(() => {
    if (i?.email) setF((f) => ({ ...f, email: f.email || i.email }));
  }, [i?.email]);
  if (invitee.error)
    return (
      <Door says={t("An invitation.")}>
        <Notice tone="clay">{t("This invitation was used, taken back, or is too old. Ask for a new one.")}</Notice>
      </Door>
    );
  if (!i) return <Door says={t("An invitation.")}> </Door>;
  return (
    <Door
      says={
        i.athlete
          ? t(
              "Make your account, {athlete}: what your coach sends stays there, and your next clips go straight to {team}.",
              { athlete: i.athlete, team: i.team },
            )
          : t("{team} invites you {roles}.", { team: i.team, roles: roles[i.role] })
      }
    >
      <DoorForm
        onSubmit={() => andThen(join.mutateAsync({ invitation: secret, ...f }), () => void go("/"))}
        error={join.error}
      >
        {!i.athlete && <Field name="name" label={t("Your name")} complete="name" value={f.name} set={put("name")} />}
        <Field name="email" label={t("E-mail")} type="email" complete="email" value={f.email} set={put("email")} />
        <Field
          name="password"
          label={t("Password")}
          type="password"
          complete="new-password"
          help={goodPassword}
          value={f.password}
          set={put("password")}
        />
        <Button type="submit" loading={join.isPending}>
          {t("Make my account")}
        </Button>
      </DoorForm>
    </Door>
  );
}

/** Letters shows what the demo would have sent: it has no mail server. */
export function Letters() {
  const letters = useLetters(true);
  const go = useNavigate();
  const linked = (body: string) =>
    body.split(/(https?:\/\/\S+|\/(?:begin|join|reset|forgot)\S*)/).map((part, i) =>
      i % 2 ? (
        <a key={i} href={part} style={{ textDecoration: "underline", overflowWrap: "anywhere" }}>
          {part.startsWith("/") ? location.origin + part : part}
        </a>
      ) : (
        part
      ),
    );
  return (
    <Box maxW="720px" mx="auto" p="20px">
      <Flex align="center" gap="12px" mb="14px">
        <img src="/mark.svg" width={26} height={26} alt="" />
        <Text fontSize="17px" fontWeight="700" flex="1">
          {t("Letters of this demo")}
        </Text>
        <Small onClick={() => void go("/")}>{t("Back")}</Small>
      </Flex>
      <Text color="quiet" mb="14px">
        {t("The demo has no mail server. What it would send lies here.")}
      </Text>
      {letters.error && <Notice tone="clay">{letters.error.message}</Notice>}
      {letters.data?.length === 0 && (
        <Notice>
          {t("No letters yet. Invite somebody on the screen Team, or ask for a new password at the door.")}
        </Notice>
      )}
      {letters.data?.map((l) => (
        <Box key={l.id} bg="panel" borderRadius="panel" p="12px 16px" mb="8px" data-testid="letter">
          <Flex gap="10px" align="baseline">
            <Text fontWeight="650" flex="1">
              {l.subject}
            </Text>
            <Text color="quiet" fontSize="12px">
              {t("to {to}, {hour}", { to: l.to, hour: hour(l.created_at) })}
            </Text>
          </Flex>
          <Text whiteSpace="pre-wrap" mt="6px">
            {linked(l.body)}
          </Text>
        </Box>
      ))}
    </Box>
  );
}
