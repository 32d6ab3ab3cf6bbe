import type { Source } from "@/contract/sources";
import { expect, type World } from "../e2e/fixtures";

/** Adds a file as a document of an app. */
export async function addFile(world: World, slug: string, name: string, text: string): Promise<Source> {
  const response = await fetch(`${world.address}/api/bench/apps/${slug}/sources/files?name=${name}`, {
    method: "POST",
    headers: { "content-type": "application/octet-stream" },
    body: text,
  });
  expect(response.status).toBe(201);
  return (await response.json()) as Source;
}
