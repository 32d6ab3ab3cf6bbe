import { Fragment, useMemo } from "react";
import { placesIn, type Terms } from "@/core/search/words";

/** A text as it stands, with the places marked in which words are said. */
export function Marked({ text, terms }: { text: string; terms: Terms | undefined }) {
  const places = useMemo(() => (terms ? placesIn(text, terms) : []), [text, terms]);
  if (places.length === 0) return text;
  return (
    <>
      {places.map(({ from, to }, at) => (
        <Fragment key={from}>
          {text.slice(places[at - 1]?.to ?? 0, from)}
          <mark>{text.slice(from, to)}</mark>
        </Fragment>
      ))}
      {text.slice(places.at(-1)?.to)}
    </>
  );
}
