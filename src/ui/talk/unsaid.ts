import type { Picture } from "@/module/talk";

/** What a visitor wrote and added, and the app does not have yet. */
export interface Unsaid {
  text: string;
  pictures: readonly Picture[];
}

export const nothing: Unsaid = { text: "", pictures: [] };

/** What was kept of it, as far as it is that; older versions kept the text alone. */
export function unsaidIn(kept: string): Unsaid {
  try {
    const { text, pictures } = JSON.parse(kept) as Partial<Unsaid>;
    if (typeof text !== "string" || !Array.isArray(pictures)) return nothing;
    return { text, pictures: pictures.filter(isPicture) };
  } catch {
    return { text: kept, pictures: [] };
  }
}

function isPicture(given: unknown): given is Picture {
  const { file, type, width, height } = (given ?? {}) as Partial<Picture>;
  return typeof file === "string" && typeof type === "string" && Number(width) > 0 && Number(height) > 0;
}
