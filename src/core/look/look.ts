import { z } from "zod";
import { problemKinds } from "../problem/problem";

const line = (most: number) => z.string().max(most);
const accentSchema = z.string().regex(/^#[0-9a-f]{6}$/i, "is no colour: write it as #24506b");
/** A picture inside of the look itself, since a page loads nothing from elsewhere. */
const pictureSchema = z
  .string()
  .max(200_000, "is larger than 150 KB")
  .regex(/^data:image\/(?:png|jpeg|webp|gif);base64,[A-Za-z0-9+/]+=*$/, "is no PNG, JPEG, WebP or GIF");

/** How the page is dressed. What is not said has a value that suits any app. */
export const lookSchema = z.strictObject({
  /** The app's name where it is empty. */
  title: line(60).default(""),
  subtitle: line(120).default(""),
  picture: pictureSchema.nullable().default(null),
  /** What stands where nothing was said yet. */
  greeting: line(2_000).default("Good day. What would you like to know?"),
  /** Questions that are offered at first. */
  questions: z.array(line(200).min(1)).max(6).default([]),
  /** Whether a letter or the picture stands beside messages, and beside whose. */
  avatars: z.enum(["none", "app", "both"]).default("app"),
  avatar: z.enum(["letter", "picture"]).default("letter"),
  /** Who speaks, in words over each message; over plain rows what is usual where empty, over blocks nothing. */
  names: z.strictObject({ visitor: line(40).default(""), app: line(40).default("") }).prefault({}),
  /** Where a visitor's own messages stand. */
  sides: z.enum(["left", "right"]).default("left"),
  rows: z.enum(["plain", "blocks"]).default("plain"),
  accent: accentSchema.default("#24506b"),
  density: z.enum(["roomy", "dense"]).default("roomy"),
  scheme: z.enum(["light", "dark", "visitor"]).default("visitor"),
  /** What shows that a reply is waited for. */
  waiting: z.enum(["bar", "words", "dots"]).default("bar"),
  waitingWords: line(80).default("One moment"),
  placeholder: line(80).default("Write a message"),
  smallPrint: line(400).default(""),
  /** The developer's own words for a failure. */
  failures: z.partialRecord(z.enum(problemKinds), line(300)).default({}),
  /** Whether one can write while a reply is waited for. */
  composer: z.enum(["open", "held"]).default("open"),
  text: z.enum(["markdown", "plain"]).default("markdown"),
  shows: z
    .strictObject({
      thoughts: z.boolean().default(false),
      times: z.boolean().default(false),
      tokens: z.boolean().default(false),
      cost: z.boolean().default(false),
      again: z.boolean().default(true),
      rating: z.boolean().default(false),
      goOn: z.boolean().default(true),
      conversations: z.boolean().default(true),
    })
    .prefault({}),
  /** Which way the page's own words run. */
  direction: z.enum(["ltr", "rtl"]).default("ltr"),
  /** Its language (BCP 47). */
  language: z
    .string()
    .regex(/^[A-Za-z]{2,3}(?:-[A-Za-z0-9]{2,8})*$/, "is no language tag, such as en or ar")
    .default("en"),
  /** A style sheet of the developer's own, for this page alone. */
  style: z.string().max(100_000, "is longer than 100,000 characters").default(""),
});
export type Look = z.infer<typeof lookSchema>;
