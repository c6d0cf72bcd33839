import { Box, Flex } from "@chakra-ui/react";
import { lazy, Suspense, useEffect, useEffectEvent } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { SignIn } from "../features/account/signin";
import { useMe } from "../features/account/api";
import type { Me } from "../api/client";
import { useRefresh } from "../api/topic";
import { useChanges } from "../features/queue/api";
import { Queue } from "../features/queue/queue";
import { Tray } from "../features/uploads/tray";
import { join, waits } from "../features/track/notes";
import { resume } from "../features/uploads/uploads";
import { bench } from "./ahead";
import { Offline, SignInAgain } from "./connection";
import { Boundary } from "../ui/boundary";
import { Opening } from "../ui/opening";
import { Notice } from "../ui/parts";
import { Undo } from "../ui/undo";
import { t } from "../texts/texts";

const Bench = lazy(bench);
const Beside = lazy(() => import("../features/compare/compare"));
const Against = lazy(() => import("../features/compare/against"));
const Models = lazy(() => import("../features/models/models"));
const Feedback = lazy(() => import("../features/feedback/feedback"));
const Athlete = lazy(() => import("../features/athlete/athlete"));
const Workshop = lazy(() => import("../features/workshop/workshop"));
const Track = lazy(() => import("../features/track/track"));
const Season = lazy(() => import("../features/season/season"));
const SquadWeek = lazy(() => import("../features/season/squad"));
const Eye = lazy(() => import("../features/eye/eye"));
const Drills = lazy(() => import("../features/drills/drills"));
const Team = lazy(() => import("../features/team/team"));
const Settings = lazy(() => import("../features/settings/settings"));
const Shared = lazy(() => import("../features/sharing/sharing"));
const ways = () => import("../features/account/ways");
const Join = lazy(() => ways().then((m) => ({ default: m.Join })));
const Forgot = lazy(() => ways().then((m) => ({ default: m.Forgot })));
const Reset = lazy(() => ways().then((m) => ({ default: m.Reset })));
const Begin = lazy(() => ways().then((m) => ({ default: m.Begin })));
const Letters = lazy(() => ways().then((m) => ({ default: m.Letters })));
const Mine = lazy(() => import("../features/sharing/sharing").then((m) => ({ default: m.Mine })));

const Wait = () => <Opening what={t("the page")} back={null} />;

/** App: what was shared needs no account; everything else does. */
export function App() {
  const { pathname } = useLocation();
  return (
    <Boundary at={pathname} part={t("This page")}>
      <Suspense fallback={<Wait />}>
        <Routes>
          <Route path="/s/:key" element={<Shared />} />
          <Route path="/join/:secret" element={<Join />} />
          <Route path="/forgot" element={<Forgot />} />
          <Route path="/reset/:secret" element={<Reset />} />
          <Route path="/begin" element={<Begin />} />
          <Route path="/letters" element={<Letters />} />
          <Route path="*" element={<SignedIn />} />
        </Routes>
      </Suspense>
      <Offline />
    </Boundary>
  );
}

function SignedIn() {
  const me = useMe();
  if (me.error)
    return (
      <Flex h="100%" align="center" justify="center" p="20px">
        <Notice tone="clay">{me.error.message}</Notice>
      </Flex>
    );
  if (!me.data) return <Wait />;
  if (!me.data.user) return <SignIn me={me.data} />;
  const { name, athlete_id: own } = me.data.user;
  if (own)
    return (
      <Routes>
        <Route path="/eye" element={<Eye five />} />
        <Route path="*" element={<Mine name={name} />} />
      </Routes>
    );
  return <Inside me={me.data} user={me.data.user} />;
}

/** Inside is what a coach sees. */
function Inside({ me, user }: { me: Me; user: NonNullable<Me["user"]> }) {
  useChanges();
  const refresh = useRefresh();
  const goOn = useEffectEvent(() => {
    const done = () => refresh("queue", "workspace", "log", "track");
    // First what was written down at the track, whose films wait for it.
    void join(done).finally(() => void resume(done, waits));
  });
  useEffect(() => {
    const again = () => goOn();
    again();
    addEventListener("online", again);
    return () => removeEventListener("online", again);
  }, []);
  return (
    <Box h="100%">
      <Suspense fallback={<Wait />}>
        <Routes>
          <Route path="/" element={<Queue team={user.team} filling={me.filling} />} />
          <Route path="/attempt/:id" element={<Bench />} />
          <Route path="/attempt/:id/feedback" element={<Feedback />} />
          <Route path="/team" element={<Team me={user} />} />
          <Route path="/settings" element={<Settings me={user} />} />
          <Route path="/athlete/:id" element={<Athlete />} />
          <Route path="/track" element={<Track />} />
          <Route path="/season/:id" element={<Season />} />
          <Route path="/eye" element={<Eye />} />
          <Route path="/drills" element={<Drills keeps={user.role !== "assistant"} />} />
          <Route path="/squad" element={<SquadWeek />} />
          <Route path="/workshop/:athlete?" element={<Workshop />} />
          <Route path="/beside/:a/:b" element={<Beside />} />
          <Route path="/against/:id" element={<Against />} />
          <Route path="/models/:id?" element={<Models />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </Suspense>
      <Tray />
      <Undo />
      <SignInAgain email={user.email} demo={me.demo} />
    </Box>
  );
}
