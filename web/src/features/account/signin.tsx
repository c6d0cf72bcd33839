import { Box, Button, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Me } from "../../api/client";
import { useBegin, useDemoSignIn, useSignIn } from "./api";
import { Notice } from "../../ui/parts";
import { Door, DoorForm, Field, goodPassword, Small } from "./door";
import { t } from "../../texts/texts";

/** SignIn is the door. */
export function SignIn({ me }: { me: Me }) {
  const signIn = useSignIn();
  const begin = useBegin();
  const oneClick = useDemoSignIn();
  const go = useNavigate();
  const [fresh, setFresh] = useState(false);
  const [f, setF] = useState({ team: "", name: "", email: "", password: "" });
  const put = (k: keyof typeof f) => (v: string) => setF({ ...f, [k]: v });
  const turn = () => {
    signIn.reset();
    begin.reset();
    setFresh(!fresh);
  };
  return (
    <Door says={t("See where a movement first went wrong, give one cue, and see next time whether it worked.")}>
      {me.demo && !fresh && (
        <Box mb="22px">
          <Button w="100%" h="40px" loading={oneClick.isPending} onClick={() => oneClick.mutate(undefined)}>
            {t("Look around in the demo club")}
          </Button>
          <Text fontSize="11.5px" color="quiet" mt="6px" textAlign="center">
            {t("or with an account")}
          </Text>
        </Box>
      )}
      {fresh && begin.data?.sent ? (
        <Notice tone="moss">
          {t("A letter is on its way to {email}. Open the link in it within a day; the team begins with it.", {
            email: f.email,
          })}
        </Notice>
      ) : (
        <DoorForm
          onSubmit={() => (fresh ? begin.mutate(f) : signIn.mutate({ email: f.email, password: f.password }))}
          error={signIn.error ?? begin.error ?? oneClick.error}
        >
          {fresh && <Field name="team" label={t("Name of your team or club")} value={f.team} set={put("team")} />}
          {fresh && <Field name="name" label={t("Your name")} complete="name" value={f.name} set={put("name")} />}
          <Field name="email" label={t("E-mail")} type="email" complete="email" value={f.email} set={put("email")} />
          <Field
            name="password"
            label={t("Password")}
            type="password"
            complete={fresh ? "new-password" : "current-password"}
            help={fresh ? goodPassword : undefined}
            value={f.password}
            set={put("password")}
          />
          <Button
            type="submit"
            variant={me.demo && !fresh ? "outline" : "solid"}
            loading={signIn.isPending || begin.isPending}
          >
            {fresh ? t("Create a team") : t("Sign in")}
          </Button>
        </DoorForm>
      )}
      <Flex mt="10px" gap="4px" wrap="wrap">
        {(me.sign_up === "open" || fresh) && (
          <Small onClick={turn}>{fresh ? t("I have an account") : t("Create a new team")}</Small>
        )}
        {!fresh && <Small onClick={() => void go("/forgot")}>{t("Forgotten the password")}</Small>}
        {me.demo && <Small onClick={() => void go("/letters")}>{t("Letters of this demo")}</Small>}
      </Flex>
    </Door>
  );
}
