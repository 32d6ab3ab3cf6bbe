import type { ButtonHTMLAttributes, Ref } from "react";

/** Something that is done, as a word that reads like a link. */
export function Action({
  className = "",
  ...button
}: ButtonHTMLAttributes<HTMLButtonElement> & { ref?: Ref<HTMLButtonElement> }) {
  return <button type="button" {...button} className={`link ${className}`.trimEnd()} />;
}
