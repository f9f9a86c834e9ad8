import { QueryClient } from "@tanstack/react-query";
import { describe, expect, it } from "vitest";
import type { Who } from "../api/types";
import { takeIn } from "./person";

const who = (person: string) => ({ person, signed_in: person !== "" }) as Who;

describe("who is signed in at this browser", () => {
  it("sees nothing that was fetched for another, or in another firm", () => {
    const client = new QueryClient();
    takeIn(client, who("1"));
    client.setQueryData(["firm"], "theirs");
    takeIn(client, who("1"));
    expect(client.getQueryData(["firm"])).toBe("theirs");
    takeIn(client, who("2"));
    expect(client.getQueryData(["firm"])).toBeUndefined();
    client.setQueryData(["firm"], "mine");
    takeIn(client, who(""));
    expect(client.getQueryData(["firm"])).toBeUndefined();
    expect(client.getQueryData(["who"])).toEqual(who(""));
  });

  it("does not let an answer that was asked for before overtake who is signed in now", async () => {
    const client = new QueryClient();
    client.setQueryData(["who"], who("1"));
    client.setQueryData(["jobs"], ["of the first"]);
    let answer: (found: Who) => void = () => undefined;
    const asked = client
      .fetchQuery({ queryKey: ["who"], queryFn: () => new Promise<Who>((done) => (answer = done)), staleTime: 0 })
      .catch(() => undefined);
    takeIn(client, who("2"));
    answer(who("1"));
    await asked;
    expect(client.getQueryData<Who>(["who"])?.person).toBe("2");
    expect(client.getQueryData(["jobs"])).toBeUndefined();
  });
});
