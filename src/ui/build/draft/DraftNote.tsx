import { Action } from "../../shared/Action";
import { ContentChange } from "../../shared/ContentChange";
import { ProblemNote } from "../../shared/ProblemNote";
import { useStored } from "../../shared/store";
import styles from "./DraftNote.module.css";
import type { DraftStore } from "./draft-store";

/** What keeps the draft from being stored: why, or both edits of one part, of which one is to be chosen. */
export function DraftNote({ draft, nameOf }: { draft: DraftStore; nameOf: (provider: string) => string }) {
  const failure = useStored(draft, (state) => state.failure);
  const conflict = useStored(draft, (state) => state.conflict);
  const base = useStored(draft, (state) => state.base);
  const content = useStored(draft, (state) => state.content);
  if (!conflict)
    return failure ? (
      <ProblemNote problem={failure}>
        <Action onClick={() => void draft.keep()}>store it again</Action>
      </ProblemNote>
    ) : null;
  return (
    <section className={styles.conflict} aria-label="Two edits of the draft" role="alert">
      <p>
        <b>The {conflict.parts.join(" and the ")} of the draft</b>{" "}
        {conflict.parts.length === 1
          ? "was changed here and in another place"
          : "were changed here and in another place"}
        . Choose one of the two; nothing more is stored until then.
      </p>
      <div className={styles.both}>
        <div>
          <h3>Here</h3>
          <ContentChange before={base} after={content} nameOf={nameOf} />
          <Action onClick={() => void draft.choose("mine")}>keep mine</Action>
        </div>
        <div>
          <h3>In the other place</h3>
          <ContentChange before={base} after={conflict.draft} nameOf={nameOf} />
          <Action onClick={() => void draft.choose("theirs")}>take the other</Action>
        </div>
      </div>
    </section>
  );
}
