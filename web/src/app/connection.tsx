import { Box, Button, Text } from "@chakra-ui/react";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type FormEvent } from "react";
import { sessionEnded } from "../api/client";
import { andThen } from "../api/topic";
import { useDemoSignIn, useSignIn } from "../features/account/api";
import { DoorForm, Field } from "../features/account/door";
import { Modal } from "../ui/modal";
import { useOnline } from "../ui/online";
import { t } from "../texts/texts";

/** Offline says on every page that there is no connection, and what that means. */
export function Offline() {
  if (useOnline()) return null;
  return (
    <Box
      position="fixed"
      left="50%"
      bottom="16px"
      transform="translateX(-50%)"
      bg="amberFaint"
      color="chalk"
      border="1px solid"
      borderColor="amber"
      borderRadius="full"
      px="16px"
      py="7px"
      zIndex={30}
      role="status"
      data-testid="offline"
      maxW="92vw"
    >
      <Text fontSize="12.5px">
        {t("No connection. What you do is kept in this browser and saved when it is back.")}
      </Text>
    </Box>
  );
}

/** SignInAgain lets a coach whose session has ended sign in where he is: the page stays, and
 * what it keeps is saved. */
export function SignInAgain({ email, demo }: { email: string; demo: boolean }) {
  const [out, setOut] = useState(false);
  const [f, setF] = useState({ email, password: "" });
  const queries = useQueryClient();
  const signIn = useSignIn();
  const oneClick = useDemoSignIn();
  useEffect(() => {
    const ended = () => setOut(true);
    addEventListener(sessionEnded, ended);
    return () => removeEventListener(sessionEnded, ended);
  }, []);
  const back = () => {
    setOut(false);
    setF({ email, password: "" });
    void queries.invalidateQueries();
    dispatchEvent(new Event("online")); // what waits is tried again
  };
  return (
    <Modal title={t("Your session has ended")} open={out} onClose={() => setOut(false)} focus="[name=password]">
      <Text color="quiet" mb="10px">
        {t("Sign in to go on where you are. What you entered is kept and is saved then.")}
      </Text>
      <DoorForm onSubmit={() => andThen(signIn.mutateAsync(f), back)} error={signIn.error ?? oneClick.error}>
        <Field
          name="email"
          label={t("E-mail")}
          type="email"
          complete="email"
          value={f.email}
          set={(v) => setF({ ...f, email: v })}
        />
        <Field
          name="password"
          label={t("Password")}
          type="password"
          complete="current-password"
          value={f.password}
          set={(v) => setF({ ...f, password: v })}
        />
        <Button type="submit" loading={signIn.isPending}>
          {t("Sign in")}
        </Button>
        {demo && (
          <Button
            variant="outline"
            loading={oneClick.isPending}
            onClick={(e: FormEvent) => {
              e.preventDefault();
              andThen(oneClick.mutateAsync(undefined), back);
            }}
          >
            {t("Go on in the demo club")}
          </Button>
        )}
      </DoorForm>
    </Modal>
  );
}
