import { createContext } from "react";
import styles from "./Markdown.module.css";

/** How the parts of a shown text are called in the style sheet of where it stands, and what is said of them there. */
export interface TextDress {
  text: string;
  /** A table that scrolls, a fence, the code in it, and what copies it. */
  scroll: string;
  fence: string;
  code: string;
  copy: string;
  /** A text as it was written. */
  written: string;
  /** What is said of a text that is not shown as it is; undefined where that is not said. */
  note: string | undefined;
  action: string;
  /** A mark that opens the passage it names, and one that names none. */
  cite: string;
  stray: string;
  said: { copy: string; copied: string; failed: string };
}

const bench: TextDress = {
  text: styles.text ?? "",
  scroll: styles.scroll ?? "",
  fence: styles.fence ?? "",
  code: "",
  copy: "link",
  written: styles.written ?? "",
  note: styles.note ?? "",
  action: "link",
  cite: styles.cite ?? "",
  stray: styles.stray ?? "",
  said: { copy: "copy", copied: "copied", failed: "the browser did not copy it" },
};

/** That of the bench, unless another is given. */
export const Dressed = createContext(bench);
