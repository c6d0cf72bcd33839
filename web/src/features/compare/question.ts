import { keepPreviousData } from "@tanstack/react-query";
import { ask, client } from "../../api/client";

/** asked is the question to the server; "model" is the simulated reference. */
export const asked = (
  a: string,
  b: string,
  more: { at?: string; clip_a?: string; clip_b?: string; curve?: string },
) => ({
  queryKey: ["beside", a, b, more.at, more.clip_a, more.clip_b, more.curve],
  queryFn: () =>
    ask(
      client.GET("/compare", {
        params: {
          query: {
            a,
            ...(b === "model" ? { reference: true } : { b }),
            at: more.at || undefined,
            clip_a: more.clip_a,
            clip_b: more.clip_b,
            curve: more.curve || undefined,
          },
        },
      }),
    ),
  placeholderData: keepPreviousData,
});

/** most is how many can be held against the first. */
export const most = 3;
