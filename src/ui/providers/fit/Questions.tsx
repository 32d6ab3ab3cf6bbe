import { AutoComplete, Select } from "antd";
import type { Fitting, Question } from "@/core/wire/fitting/fit";
import { Action } from "../../shared/Action";
import styles from "./FitSheet.module.css";

/** What fitting can't know, for the developer to say, and what was said. */
export function Questions({
  fitting,
  answers,
  onAnswer,
}: {
  fitting: Fitting;
  answers: Record<string, string>;
  onAnswer: (id: string, answer: string) => void;
}) {
  const isAsked = (id: string) => fitting.questions.some((each) => each.id === id);
  const answered = Object.entries(answers).filter(([id, answer]) => answer !== "" && !isAsked(id));
  if (fitting.questions.length === 0 && answered.length === 0) return null;
  return (
    <ul className={styles.questions} aria-label="What it can't know">
      {fitting.questions.map((question) => (
        <li key={question.id}>
          <span>{question.ask}</span> <Answer question={question} onAnswer={onAnswer} />
        </li>
      ))}
      {answered.map(([id, answer]) => (
        <li key={id}>
          {id}: <b>{answer}</b>, as you said. <Action onClick={() => onAnswer(id, "")}>take it back</Action>
        </li>
      ))}
    </ul>
  );
}

/** An answer out of what it can be, or one that is typed, with what it usually is. */
function Answer({
  question: { id, ask, choices, proposals },
  onAnswer,
}: {
  question: Question;
  onAnswer: (id: string, answer: string) => void;
}) {
  if (choices)
    return (
      <Select
        aria-label={ask}
        className={styles.answer}
        placeholder="choose"
        popupMatchSelectWidth={false}
        options={choices.map((value) => ({ value, label: value }))}
        onChange={(value) => onAnswer(id, value)}
      />
    );
  let typed = "";
  return (
    <AutoComplete
      aria-label={ask}
      className={styles.answer}
      placeholder={proposals ? "choose, or type" : "type it"}
      options={proposals?.map((value) => ({ value, label: value }))}
      onChange={(value: string) => {
        typed = value;
      }}
      onSelect={(value: string) => onAnswer(id, value)}
      onBlur={() => typed.trim() !== "" && onAnswer(id, typed)}
      onInputKeyDown={(event) => {
        if (event.key === "Enter" && typed.trim() !== "") onAnswer(id, typed);
      }}
    />
  );
}
