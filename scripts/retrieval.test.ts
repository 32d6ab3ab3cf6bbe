import { readFileSync } from "node:fs";
import { expect, it, vi } from "vitest";
import type { Content } from "@/core/revision/content";
import { testFolder } from "@/server/test/folder";
import { askedOf, shareAmong } from "./retrieval";
import { addDocuments, preparedDocuments } from "./seed-documents";

it("the README says how many of the questions of Harbour Desk find their passage among the first 1, 3 and 5", async () => {
  const { home, remove } = testFolder();
  try {
    const documents = preparedDocuments(home, "demo/harbour-desk");
    const content: Content = {
      prompt: "",
      variables: {},
      provider: "p",
      model: "m",
      settings: {},
      memory: { kind: "nothing" },
      sources: { documents: documents.map(({ id, hash }) => ({ source: id, version: hash })) },
    };
    const app = home.apps.make("Harbour Desk", content, 1);
    addDocuments(home, app.id, documents);
    const [job] = home.jobs.latest();
    home.runner.start(job?.id ?? "");
    await vi.waitFor(() => expect(home.jobs.byId(job?.id ?? "")?.state).toBe("done"), {
      timeout: 60_000,
      interval: 100,
    });
    const asked = askedOf(home, content);
    const shares = [1, 3, 5].map((first) => shareAmong(asked, first));
    const missed = asked.filter(({ rank }) => rank === null || rank > 5).map(({ question }) => question);
    const said = `${shares[0]}% of them have it first, ${shares[1]}% among the first three, ${shares[2]}% among the first five`;
    const isSaid = readFileSync("README.md", "utf8").replace(/\s+/g, " ").includes(said);
    expect(isSaid, `It is: ${said}. Not among the first five: ${missed.join(" · ")}`).toBe(true);
  } finally {
    remove();
  }
}, 90_000);
