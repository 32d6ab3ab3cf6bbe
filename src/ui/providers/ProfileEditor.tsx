"use client";

import { z } from "zod";
import type { SchemaNode } from "@/core/wire/completions";
import { profileSchema } from "@/core/wire/profile-schema";
import JsonEditor, { type WrongAt } from "../shared/editor/JsonEditor";
import { readProfileText } from "./profile-text";

/** A JSON editor for a wire profile, with what is wrong shown where it stands. */
export default function ProfileEditor({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  return <JsonEditor label="Wire profile as JSON" {...{ text, onChange, schema, check }} />;
}

const schema = z.toJSONSchema(profileSchema, { io: "input", unrepresentable: "any" }) as SchemaNode;

function check(text: string): WrongAt | undefined {
  const { profile, wrong, steps } = { steps: undefined, wrong: "", profile: undefined, ...readProfileText(text) };
  return profile || !steps ? undefined : { wrong, steps };
}
