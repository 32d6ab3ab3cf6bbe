import { readFileSync } from "node:fs";
import { join } from "node:path";
import type { Metadata } from "next";
import { notFound } from "next/navigation";
import { DocView } from "@/ui/docs/DocView";

/** The pages of docs/ that the bench leads to. */
const titles: Record<string, string> = {
  "wire-profiles": "Wire profiles",
  endpoints: "Endpoints",
  memory: "Memory",
  tools: "Tools and pictures",
  history: "History",
  facts: "Facts",
  checks: "Checks",
  duets: "Duets",
  guards: "Guards",
  look: "The look of a page",
};

interface Props {
  params: Promise<{ name: string }>;
}

export async function generateMetadata({ params }: Props): Promise<Metadata> {
  return { title: titles[(await params).name] };
}

export default async function DocPage({ params }: Props) {
  const { name } = await params;
  if (!Object.hasOwn(titles, name)) notFound();
  return <DocView text={readFileSync(join(process.cwd(), "docs", `${name}.md`), "utf8")} />;
}
