import { Box, Button, Flex, Input, Text } from "@chakra-ui/react";
import { useState, type FormEvent } from "react";
import { useBegin, useDemoSignIn, useSignIn } from "../api/queries";
import { Named } from "../queue/forms";
import { Notice } from "../ui/parts";

/** SignIn is the door. */
export function SignIn({ demo }: { demo: boolean }) {
  const signIn = useSignIn();
  const begin = useBegin();
  const oneClick = useDemoSignIn();
  const [fresh, setFresh] = useState(false);
  const [f, setF] = useState({ team: "", name: "", email: "", password: "" });
  const error = signIn.error ?? begin.error ?? oneClick.error;
  const field = (k: keyof typeof f, name: string, type = "text", help?: string) => (
    <Named name={name} help={help}>
      <Input name={k} type={type} value={f[k]} onChange={(e) => setF({ ...f, [k]: e.target.value })} required autoComplete={k === "password" ? (fresh ? "new-password" : "current-password") : k === "email" ? "email" : "off"} />
    </Named>
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (fresh) begin.mutate(f);
    else signIn.mutate({ email: f.email, password: f.password });
  };
  return (
    <Flex minH="100%" align="center" justify="center" p="20px">
      <Box w="360px">
        <Flex align="center" gap="12px" mb="6px">
          <img src="/mark.svg" width={38} height={38} alt="" />
          <Text fontSize="26px" fontWeight="700">
            Neokinema
          </Text>
        </Flex>
        <Text color="quiet" mb="22px">
          See where a movement first went wrong, give one cue, and see next time whether it worked.
        </Text>
        {demo && !fresh && (
          <Box mb="22px">
            <Button w="100%" h="40px" loading={oneClick.isPending} onClick={() => oneClick.mutate(undefined)}>
              Look around in the demo club
            </Button>
            <Text fontSize="11.5px" color="quiet" mt="6px" textAlign="center">
              or with an account
            </Text>
          </Box>
        )}
        <form onSubmit={submit}>
          <Box display="grid" gap="10px" bg="panel" p="16px" borderRadius="panel">
            {fresh && field("team", "Name of your team or club")}
            {fresh && field("name", "Your name")}
            {field("email", "E-mail", "email")}
            {field("password", "Password", "password", fresh ? "at least 10 letters" : undefined)}
            {error && <Notice tone="clay">{error.message}</Notice>}
            <Button type="submit" variant={demo && !fresh ? "outline" : "solid"} loading={signIn.isPending || begin.isPending}>
              {fresh ? "Begin a team" : "Sign in"}
            </Button>
          </Box>
        </form>
        <Button variant="ghost" size="xs" mt="10px" onClick={() => setFresh(!fresh)}>
          {fresh ? "I have an account" : "Begin a new team"}
        </Button>
      </Box>
    </Flex>
  );
}
