// @vitest-environment jsdom
import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { askAnew } from "./ask-anew";

it("does not take an answer from before a change for what there is after it", async () => {
  const client = new QueryClient();
  const answers: ((found: string) => void)[] = [];
  const ask = () => new Promise<string>((resolve) => answers.push(resolve));
  function Shown() {
    return <p>{useQuery({ queryKey: ["copies", 2], queryFn: ask }).data ?? "nothing yet"}</p>;
  }
  render(
    <QueryClientProvider client={client}>
      <Shown />
    </QueryClientProvider>,
  );
  expect(answers).toHaveLength(1);
  await act(async () => {
    const anew = askAnew(client, ["copies"]);
    answers[0]?.("with the copy");
    await Promise.resolve();
    await new Promise((soon) => setTimeout(soon));
    answers[1]?.("without it");
    await anew;
  });
  expect(await screen.findByText("without it")).toBeTruthy();
});
