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
});
