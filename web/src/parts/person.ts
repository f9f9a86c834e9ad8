import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { who } from "../api/client";
import type { Who } from "../api/types";
import { local } from "../engine/local";

/** Forget what was fetched for another person, or in another firm, than the one who is signed in now: it is not theirs to see. */
export function forgetOthers(client: QueryClient, now: Who) {
  const before = client.getQueryData<Who>(["who"]);
  if (!before || before.person === now.person) return;
  client.removeQueries({ predicate: (query) => query.queryKey[0] !== "who" });
  // The program stays; the jobs that were laid up in it do not.
  local.forget();
}

/** Take in who is signed in now; an answer still under way was asked for before, and is of whoever it was then. */
export function takeIn(client: QueryClient, now: Who) {
  void client.cancelQueries({ queryKey: ["who"] });
  forgetOthers(client, now);
  client.setQueryData(["who"], now);
}

/** One page asks once who is there, however many of its parts want to know [ms]. */
const FRESH = 5000;

/** Who is there. */
export function useWho() {
  const client = useQueryClient();
  return useQuery({
    queryKey: ["who"],
    queryFn: async () => {
      const found = await who();
      forgetOthers(client, found);
      return found;
    },
    retry: 3,
    staleTime: FRESH,
  });
}
