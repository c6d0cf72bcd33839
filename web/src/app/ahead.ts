import type { QueryClient } from "@tanstack/react-query";
import { known } from "../api/keep";
import { meQuery } from "../features/account/api";
import { queueQuery } from "../features/queue/api";
import { keptView } from "../features/queue/order";
import { workspaceQuery } from "../features/workspace/api";

/** The Bench brings the decoder and the WebAssembly core: only when it opens. */
export const bench = () => import("../features/workspace/workspace");

/** askAhead asks for what an address shows while the page is still being built; it is done when all
 * is answered, or is not going to be. */
export function askAhead(queries: QueryClient, path: string) {
  const attempt = /^\/attempt\/([0-9a-f-]{36})$/.exec(path)?.[1];
  const all: Promise<unknown>[] = [queries.prefetchQuery(meQuery)];
  if (attempt) all.push(bench().catch(() => {}));
  if (attempt && known()) all.push(queries.prefetchQuery(workspaceQuery(attempt)));
  if (path === "/" && known()) all.push(queries.prefetchInfiniteQuery(queueQuery(keptView())));
  return Promise.all(all);
}
