import {
  infiniteQueryOptions,
  keepPreviousData,
  useInfiniteQuery,
  useQuery,
  useQueryClient,
  type Query,
} from "@tanstack/react-query";
import { useEffect } from "react";
import { ask, client, type NewAttempt, type Workspace } from "../../api/client";
import { about, useChange } from "../../api/topic";
import { today } from "../../ui/written";
import { tellNews } from "./news";
import { asking, keptView, type View } from "./order";

/** queueQuery asks for a view of the queue, page by page. */
export const queueQuery = (view: View) =>
  infiniteQueryOptions({
    queryKey: about("queue", "pages", JSON.stringify(asking(view))),
    queryFn: ({ pageParam }) =>
      ask(client.GET("/queue", { params: { query: { ...asking(view), offset: pageParam, today: today() } } })),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const have = all.reduce((n, p) => n + p.lines.length, 0);
      return last.lines.length && have < last.total ? have : undefined;
    },
  });

/** useQueue gives the queue in pages; what changes comes by [useChanges]. */
export const useQueue = (view: View) => useInfiniteQuery({ ...queueQuery(view), placeholderData: keepPreviousData });

/** useLines gives the newest attempts at an event that fit what was typed. */
export const useLines = (event: string, find: string) =>
  useQuery({
    queryKey: about("queue", "lines", event, find),
    queryFn: () =>
      ask(client.GET("/queue", { params: { query: { event, find: find || undefined, by: "newest", limit: 100 } } })),
    placeholderData: keepPreviousData,
  });

/** nextAfter is the attempt that comes behind one as the coach has put the queue in order. */
export const nextAfter = async (id: string) =>
  (await ask(client.GET("/queue/after/{id}", { params: { path: { id }, query: asking(keptView()) } }))).id;

/** useChanges asks anew for what a team shares when the server says that it changed. One tab
 * listens and tells the others: a browser keeps but a few connections to a server open. */
export function useChanges() {
  const queries = useQueryClient();
  useEffect(() => {
    const tabs = new BroadcastChannel("neo.changes");
    const left = new AbortController();
    let stands = "";
    const heard = (stamp: string, first = false) => {
      if (!first && stamp !== stands) {
        for (const topic of ["queue", "draft"] as const) void queries.invalidateQueries({ queryKey: about(topic) });
        // A clip that another tab, or a colleague, sent to an open attempt that has none.
        const waits = (q: Query) => (q.state.data as Workspace | undefined)?.clips.length === 0;
        void queries.invalidateQueries({ queryKey: about("workspace"), predicate: waits });
      }
      stands = stamp;
    };
    tabs.onmessage = (e: MessageEvent<string>) => heard(e.data);
    const listen = () =>
      new Promise<void>((over) => {
        if (left.signal.aborted) return over();
        const source = new EventSource("/api/changes");
        source.onmessage = (e: MessageEvent<string>) => {
          // The first word only says where it stands; after a lost connection, whether it moved.
          heard(e.data, !stands);
          void tellNews();
          tabs.postMessage(e.data);
        };
        left.signal.addEventListener("abort", () => {
          source.close();
          over();
        });
      });
    // Without locks (an address without TLS) every tab listens by itself.
    if (navigator.locks) void navigator.locks.request("neo.changes", { signal: left.signal }, listen).catch(() => {});
    else void listen();
    return () => {
      left.abort();
      tabs.close();
    };
  }, [queries]);
}

export const useAddAttempt = () => useChange((body: NewAttempt) => ask(client.POST("/attempts", { body })), "queue");

/** useAddSample adds an attempt with a clip to try. */
export const useAddSample = () => useChange(() => ask(client.POST("/sample")), "queue", "athletes");

export const useChangeAttempt = () =>
  useChange(
    ({ id, body }: { id: string; body: NewAttempt }) =>
      ask(client.PUT("/attempts/{id}", { params: { path: { id } }, body })),
    "queue",
    "workspace",
    "log",
    "feedback",
  );

export const useSetState = () =>
  useChange(
    ({ id, state }: { id: string; state: "new" | "in_work" | "ready" | "sent" }) =>
      ask(client.PUT("/attempts/{id}/state", { params: { path: { id } }, body: { state } })),
    "queue",
    "workspace",
    "feedback",
  );

export const useDeleteAttempt = () =>
  useChange((id: string) => ask(client.DELETE("/attempts/{id}", { params: { path: { id } } })), "queue", "log");

export const useGlance = (id: string) =>
  useQuery({
    queryKey: about("glance", id),
    queryFn: () => ask(client.GET("/attempts/{id}/glance", { params: { path: { id } } })),
    enabled: !!id,
    staleTime: 60_000,
  });

export const spendTime = (id: string, seconds: number) =>
  ask(client.PUT("/attempts/{id}/time", { params: { path: { id } }, body: { seconds } }));
