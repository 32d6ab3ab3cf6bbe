import { argumentsNotJson } from "./arguments-not-json";
import { brokenJson } from "./broken-json";
import { callsWithoutEnd } from "./calls-without-end";
import { cutAtEveryByte } from "./cut-at-every-byte";
import { cutInCharacter } from "./cut-in-character";
import { dropped } from "./dropped";
import { empty } from "./empty";
import type { Fault } from "./fault";
import { gullible } from "./gullible";
import { heldBack } from "./held-back";
import { neverEnds } from "./never-ends";
import { noEnd } from "./no-end";
import { noUsage } from "./no-usage";
import { page } from "./page";
import { redirect } from "./redirect";
import { slowDrip } from "./slow-drip";
import { slowStart } from "./slow-start";
import { stalled } from "./stalled";
import { status } from "./status";
import { toolNotOffered } from "./tool-not-offered";
import { twice } from "./twice";
import { wrongUsage } from "./wrong-usage";

/** Every fault by its name in a plan. */
export const faults: Readonly<Record<string, Fault>> = {
  "slow-start": slowStart,
  "slow-drip": slowDrip,
  stalled,
  dropped,
  "broken-json": brokenJson,
  "cut-in-character": cutInCharacter,
  "cut-at-every-byte": cutAtEveryByte,
  "held-back": heldBack,
  status,
  redirect,
  page,
  empty,
  "no-end": noEnd,
  twice,
  "never-ends": neverEnds,
  "no-usage": noUsage,
  "wrong-usage": wrongUsage,
  gullible,
  "tool-not-offered": toolNotOffered,
  "arguments-not-json": argumentsNotJson,
  "calls-without-end": callsWithoutEnd,
};
