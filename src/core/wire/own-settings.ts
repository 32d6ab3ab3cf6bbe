import { z } from "zod";

/** Settings that an API has of its own, such as how long to think, or a service class: its profile declares them. */
export const ownSettingSchema = z
  .strictObject({
    name: z
      .string()
      .regex(/^[a-z][a-zA-Z0-9]{0,39}$/, "is no name: begin with a small letter, and use letters and digits"),
    says: z.string().trim().min(1).max(60).describe("What it is called where it is set"),
    type: z.enum(["switch", "choice", "number", "text"]),
    choices: z.array(z.string().min(1).max(60)).min(2).max(20).optional().describe("Of a choice: what there is"),
    from: z.number().optional().describe("Of a number: the least"),
    to: z.number().optional().describe("Of a number: the most"),
    models: z.array(z.string().max(200)).min(1).optional().describe("The models that have it; * stands for any text"),
  })
  .refine(({ type, choices }) => (type === "choice") === (choices !== undefined), {
    error: "goes with a choice, and with nothing else",
    path: ["choices"],
  });
export type OwnSetting = z.infer<typeof ownSettingSchema>;

/** What such a setting can be. */
export const ownValueSchema = z.union([z.boolean(), z.number(), z.string().min(1).max(1_000)]);
export type OwnValue = z.infer<typeof ownValueSchema>;

/** Whether a value is one that a setting can have. One of another provider, or of before, may be none. */
export function fitsSetting({ type, choices = [], from, to }: OwnSetting, value: OwnValue): boolean {
  switch (type) {
    case "switch":
      return typeof value === "boolean";
    case "choice":
      return typeof value === "string" && choices.includes(value);
    case "text":
      return typeof value === "string";
    case "number":
      return typeof value === "number" && value >= (from ?? -Infinity) && value <= (to ?? Infinity);
  }
}
