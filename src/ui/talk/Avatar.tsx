import type { Dress } from "./dress";

/** The picture or the first letter of who speaks. */
export function Avatar({ look, name }: { look: Pick<Dress, "avatar" | "picture">; name: string }) {
  return (
    <span className="talk-avatar" aria-hidden="true">
      {look.avatar === "picture" && look.picture ? <img src={look.picture} alt="" /> : [...name][0]?.toUpperCase()}
    </span>
  );
}
