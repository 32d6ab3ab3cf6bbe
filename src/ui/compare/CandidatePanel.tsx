import { CandidateEditor } from "../shared/candidate/CandidateEditor";
import { laneSaid } from "../shared/candidate/candidate-words";
import { Panel } from "../shared/candidate/Panel";
import type { Bench, Candidates } from "./use-candidates";

/** The candidate that is unfolded, where nothing was asked of it yet. @param fewest candidates that the view needs */
export function CandidatePanel({
  bench: { app, providers, live },
  candidates: { fresh, setFresh, content, nameOf, panel, setPanel },
  fewest,
}: {
  bench: Bench;
  candidates: Candidates;
  fewest: number;
}) {
  const edited = fresh.find(({ key }) => key === panel);
  if (!edited) return null;
  const fold = () => setPanel(undefined);
  const leave = () => {
    setFresh(fresh.filter(({ key }) => key !== edited.key));
    fold();
  };
  return (
    <Panel key={edited.key} label={laneSaid(edited)} onClose={fold}>
      <CandidateEditor
        {...{ live, providers, nameOf }}
        slug={app.slug}
        draft={content}
        candidate={edited}
        isAsked={false}
        onChange={(lane) =>
          setFresh(fresh.map((each) => (each.key === edited.key ? { ...lane, key: each.key } : each)))
        }
        onLeave={fresh.length > fewest ? leave : undefined}
      />
    </Panel>
  );
}
