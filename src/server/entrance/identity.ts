import { errors, type JWTPayload, jwtVerify } from "jose";
import { z } from "zod";
import { labelSchema, mostLabels } from "@/core/sources/sources";
import { refuse } from "../ground/refusal";
import type { SiteSecret } from "./token-store";
import { isVisitorId } from "./visitor-store";

/**
 * Identities: who somebody is to the site that shows an app, signed by that site with a secret that Serve made. An
 * identity is a JSON Web Token (RFC 7519) under HS256 with `sub`, the visitor's name, and `exp`, its end; `labels` says
 * which documents the visitor is answered from beside those that are for everybody.
 */

/** Seconds that an identity may last at most from when it is shown. */
export const longestIdentity = 24 * 60 * 60;
/** Seconds by which the clocks of the two servers may differ. */
const tolerance = 30;
const name = /^[\x20-\x7e]{1,100}$/;

/** Whether a bearer token has the shape of an identity. */
export function looksLikeIdentity(text: string): boolean {
  return /^eyJ[\w-]*\.[\w-]+\.[\w-]+$/.test(text);
}

/**
 * The visitor that an identity names, and the secret under which it was signed.
 * @param now epoch milliseconds
 * @throws {Refusal} `unknown-caller`, with what is wrong
 */
export async function identityIn(
  text: string,
  sites: readonly SiteSecret[],
  now: number,
): Promise<{ name: string; labels: string[]; site: string }> {
  for (const { id, secret } of sites) {
    const claims = await claimsIn(text, secret, now);
    if (claims) return { name: nameIn(claims, now), labels: labelsIn(claims), site: id };
  }
  return refused(
    "The identity is signed by no site of this app.",
    "Sign it with the secret that Serve gave, as HS256.",
  );
}

/** What an identity claims; undefined where it was signed by another secret. */
async function claimsIn(text: string, secret: string, now: number): Promise<JWTPayload | undefined> {
  try {
    const { payload } = await jwtVerify(text, new TextEncoder().encode(secret), {
      algorithms: ["HS256"],
      requiredClaims: ["sub", "exp"],
      clockTolerance: tolerance,
      currentDate: new Date(now),
    });
    return payload;
  } catch (error) {
    if (error instanceof errors.JWTExpired) refused("The identity is over.", "Have the site sign another one.");
    if (error instanceof errors.JWTClaimValidationFailed)
      refused(`The identity's \`${error.claim}\` is missing, or is none.`, "It needs `sub`, the visitor, and `exp`.");
    if (error instanceof errors.JOSEError) return undefined;
    throw error;
  }
}

function nameIn({ sub = "", exp = 0 }: JWTPayload, now: number): string {
  if (!name.test(sub))
    refused("The identity's `sub` is no name of up to 100 letters of ASCII.", "Give the visitor's name or number.");
  // ids are names as well, and one who is named by a site is nobody whom it did not name
  if (isVisitorId(sub))
    refused(
      "The identity's `sub` has the form of an id that is given here.",
      "Give the visitor's name or number there.",
    );
  if (exp > now / 1000 + longestIdentity + tolerance)
    refused("The identity lasts for more than a day.", "Sign one with a nearer `exp`, and another when that is over.");
  return sub;
}

function labelsIn({ labels = [] }: JWTPayload): string[] {
  const read = z.array(labelSchema).max(mostLabels).safeParse(labels);
  if (read.success) return read.data;
  return refused(
    `The identity's \`labels\` is no list of up to ${mostLabels} labels.`,
    "A label is a word of up to 40 letters, figures, - and _.",
  );
}

function refused(detail: string, advice: string): never {
  refuse("unknown-caller", detail, { advice });
}
