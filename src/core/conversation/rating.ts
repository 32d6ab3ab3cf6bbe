/** What a reply can be marked as. */
export const ratings = ["good", "bad"] as const;
export type Rating = (typeof ratings)[number];
