import { useState } from "react";
import { type Guard, type GuardPlace, mostGuards } from "@/core/guards/guard";
import type { Content } from "@/core/revision/content";
import { Action } from "../../shared/Action";
import { Unfolds } from "../../shared/inline/Unfolds";
import sentences from "../../shared/sentences/sentences.module.css";
import { actWords, wordsOfLook } from "../../shared/wording/guards";
import { CaughtList } from "./CaughtList";
import { GuardEditor } from "./GuardEditor";

/** What a new rule looks for, and does: switched off, so that it is tried first. */
const begun: Record<GuardPlace, Pick<Guard, "looksFor" | "does" | "putsBack">> = {
  sent: { looksFor: { kind: "personal", kinds: ["e-mail", "phone", "card", "account"] }, does: "mask", putsBack: true },
  shown: { looksFor: { kind: "personal", kinds: ["e-mail", "phone", "card", "account"] }, does: "mask" },
};

/** The rules before sending, or before showing: each opens where it stands, and others are added. */
export default function GuardsSentence({
  app,
  on,
  content,
  edit,
}: {
  /** Its address. */
  app: string;
  on: GuardPlace;
  content: Content;
  edit: (change: Partial<Content>) => void;
}) {
  const { guards = [] } = content;
  const own = guards.filter((guard) => guard.on === on);
  const [open, setOpen] = useState<string>();
  const [showsCaught, setShowsCaught] = useState(false);
  const set = (next: readonly Guard[]) => edit({ guards: next.length > 0 ? [...next] : undefined });
  const opened = own.find(({ name }) => name === open);
  const add = () => {
    const name = freeName(guards);
    set([...guards, { name, on, ...begun[on], isOff: true }]);
    setShowsCaught(false);
    setOpen(name);
  };
  return (
    <section aria-label={on === "sent" ? "Guards before sending" : "Guards before showing"}>
      <div className={sentences.sentence}>
        {on === "sent" ? "Before a message is sent" : "Before a reply is shown"},{" "}
        {own.length === 0 ? (
          <b>no guard looks at it</b>
        ) : (
          own.map((guard, at) => (
            <span key={guard.name}>
              {at > 0 && (at === own.length - 1 ? " and " : ", ")}
              <Unfolds
                isOpen={open === guard.name}
                onClick={() => {
                  setShowsCaught(false);
                  setOpen(open === guard.name ? undefined : guard.name);
                }}
              >
                {guard.name}
              </Unfolds>{" "}
              {guard.isOff ? "is off" : `${actWords[guard.does]} ${wordsOfLook(guard.looksFor)}`}
            </span>
          ))
        )}
        .
      </div>
      {opened && (
        <GuardEditor
          key={opened.name}
          app={app}
          guard={opened}
          others={guards.filter((guard) => guard !== opened).map(({ name }) => name)}
          onChange={(next) => {
            set(guards.map((guard) => (guard === opened ? next : guard)));
            setOpen(next.name);
          }}
          onDelete={() => {
            set(guards.filter((guard) => guard !== opened));
            setOpen(undefined);
          }}
        />
      )}
      <div className={sentences.under}>
        {guards.length < mostGuards && <Action onClick={add}>add a guard</Action>}
        <Action
          aria-expanded={showsCaught}
          onClick={() => {
            setOpen(undefined);
            setShowsCaught(!showsCaught);
          }}
        >
          what guards caught
        </Action>
      </div>
      {showsCaught && <CaughtList slug={app} />}
    </section>
  );
}

function freeName(guards: readonly Guard[]): string {
  for (let number = guards.length + 1; ; number += 1) {
    const name = `Guard ${number}`;
    if (guards.every((guard) => guard.name !== name)) return name;
  }
}
