import Link from "next/link";
import { mostRounds, type Side } from "@/core/comparing/duet/duet";
import { Action } from "../../shared/Action";
import type { Spoken } from "../../shared/candidate/candidate-words";
import { many } from "../../shared/format";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { NumberValue } from "../../shared/inline/NumberValue";
import { TextValue } from "../../shared/inline/TextValue";
import styles from "../Compare.module.css";
import { LanesSaid } from "../LanesSaid";

/** What a duet is to be. */
export interface Wish {
  opening: string;
  cue: string;
  opener: Side;
  rounds: number;
  mostPrice: number | undefined;
  mostTokens: number | undefined;
}

interface Props {
  slug: string;
  lanes: readonly (Spoken & { key: string })[];
  names: readonly string[];
  panel: string | undefined;
  /** How many duets are saved. */
  saved: number;
  onPanel: (panel: string) => void;
  onOtherwise: () => void;
}

/** Who is to talk to whom, about what and for how long, in a sentence. */
export function DuetSentence({
  names,
  wish,
  onWish,
  ...props
}: Props & { wish: Wish; onWish: (change: Partial<Wish>) => void }) {
  const { lanes, panel, onPanel } = props;
  return (
    <div className={styles.asks}>
      <p>
        Has <LanesSaid {...{ lanes, panel, onPanel }} /> talk to each other, for{" "}
        <NumberValue
          label="Rounds"
          value={wish.rounds}
          min={1}
          max={mostRounds}
          onChange={(rounds) => onWish({ rounds: rounds ?? 1 })}
        />{" "}
        {wish.rounds === 1 ? "round" : "rounds"}.{" "}
        <ChoiceValue
          label="Who speaks first"
          value={String(wish.opener)}
          options={names.map((name, at) => ({ value: String(at), label: `${name} opens` }))}
          onChange={(next) => onWish({ opener: next === "1" ? 1 : 0 })}
        />{" "}
        with{" "}
        <TextValue
          label="Opening line"
          value={wish.opening}
          placeholder="words of its own"
          onChange={(opening) => onWish({ opening })}
        />
        , and is told{" "}
        <TextValue
          label="What the opener is told"
          value={wish.cue}
          placeholder="Begin the conversation."
          onChange={(cue) => onWish({ cue: cue.trim() || "Begin the conversation." })}
        />{" "}
        to begin with. It may cost{" "}
        <NumberValue
          label="Price at most"
          value={wish.mostPrice}
          min={0}
          max={1_000_000}
          step={0.01}
          none={{ said: "anything" }}
          onChange={(mostPrice) => onWish({ mostPrice })}
        />{" "}
        and take{" "}
        <NumberValue
          label="Tokens at most"
          value={wish.mostTokens}
          min={1}
          max={1_000_000_000}
          step={1000}
          none={{ said: "any number of" }}
          onChange={(mostTokens) => onWish({ mostTokens })}
        />{" "}
        tokens.
      </p>
      <Under {...props} />
    </div>
  );
}

/** Who talked to whom, and under what name that is saved. */
export function TalkedSentence({
  said,
  name,
  onName,
  onAnew,
  ...props
}: Omit<Props, "names"> & { said: string; name: string | null; onName: (name: string) => void; onAnew: () => void }) {
  return (
    <div className={styles.asks}>
      <p>{said}</p>
      <Under {...props}>
        <span>
          saved as{" "}
          <TextValue
            label="Name of this duet"
            value={name ?? ""}
            placeholder="no name"
            maxLength={100}
            onChange={onName}
          />
        </span>
        <Action onClick={onAnew}>change it and begin anew</Action>
      </Under>
    </div>
  );
}

function Under({
  slug,
  panel,
  saved,
  onPanel,
  onOtherwise,
  children,
}: Pick<Props, "slug" | "panel" | "saved" | "onPanel" | "onOtherwise"> & { children?: React.ReactNode }) {
  return (
    <div className={styles.under}>
      {children}
      <Action aria-expanded={panel === "list"} data-focus="list" onClick={() => onPanel("list")}>
        {many(saved, "saved duet")}
      </Action>
      <Link href={`/apps/${slug}/compare`} onClick={onOtherwise}>
        one message to both instead
      </Link>
    </div>
  );
}
