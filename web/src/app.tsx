import { Box, Flex, Spinner } from "@chakra-ui/react";
import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { SignIn } from "./account/signin";
import { useMe } from "./api/queries";
import { Queue } from "./queue/queue";
import { Tray } from "./queue/tray";
import { Notice } from "./ui/parts";

// The Bench brings the decoder and the WebAssembly core: only when it opens.
const Bench = lazy(() => import("./bench/bench"));
const Beside = lazy(() => import("./beside/beside"));
const Models = lazy(() => import("./models/models"));
const Feedback = lazy(() => import("./feedback/feedback"));

const Wait = () => (
  <Flex h="100%" align="center" justify="center">
    <Spinner color="clay" />
  </Flex>
);

export function App() {
  const me = useMe();
  if (me.error)
    return (
      <Flex h="100%" align="center" justify="center" p="20px">
        <Notice tone="clay">{me.error.message}</Notice>
      </Flex>
    );
  if (!me.data) return <Wait />;
  if (!me.data.user) return <SignIn demo={me.data.demo} />;
  return (
    <Box h="100%">
      <Suspense fallback={<Wait />}>
        <Routes>
          <Route path="/" element={<Queue team={me.data.user.team} />} />
          <Route path="/attempt/:id" element={<Bench />} />
          <Route path="/attempt/:id/feedback" element={<Feedback />} />
          <Route path="/beside/:a/:b" element={<Beside />} />
          <Route path="/models/:id?" element={<Models />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
      <Tray />
    </Box>
  );
}
