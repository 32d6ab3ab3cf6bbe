import { judgePicture, type TakenPicture } from "@/core/pictures/judging";
import { Refusal } from "../ground/refusal";

/** The picture that bytes are, without what was written about it. @throws {Refusal} `bad-request`, `too-large` */
export function judgedPicture(bytes: Uint8Array, largest?: number): TakenPicture {
  const judged = judgePicture(bytes, largest);
  if (judged.kind === "problem") throw new Refusal(judged.problem);
  return judged;
}
