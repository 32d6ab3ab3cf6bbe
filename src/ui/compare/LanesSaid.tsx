import { laneSaid, type Spoken } from "../shared/candidate/candidate-words";
import { Unfolds } from "../shared/inline/Unfolds";

/** Candidates in a sentence, each unfolded where it stands. */
export function LanesSaid({
  lanes,
  panel,
  onPanel,
}: {
  lanes: readonly (Spoken & { key: string })[];
  /** The key of the one that is unfolded. */
  panel: string | undefined;
  onPanel: (key: string) => void;
}) {
  return lanes.map((lane, at) => (
    <span key={lane.key}>
      {at > 0 && (at === lanes.length - 1 ? " and " : ", ")}
      <span data-focus={`lane ${at}`}>
        <Unfolds isOpen={panel === lane.key} onClick={() => onPanel(lane.key)}>
          {laneSaid(lane)}
        </Unfolds>
      </span>
    </span>
  ));
}
