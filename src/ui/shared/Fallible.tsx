import { Component, type ErrorInfo, type ReactNode } from "react";
import { Action } from "./Action";
import styles from "./ProblemNote.module.css";

interface Props {
  /** What can't be shown, as it stands in a sentence: "this row". */
  what: string;
  /** What is shown instead; a note with a way back unless given. */
  otherwise?: ReactNode;
  children: ReactNode;
}

/** Keeps what goes wrong while something is shown to that thing alone, says so, and offers to try again. */
export class Fallible extends Component<Props, { failure?: Error }> {
  override state: { failure?: Error } = {};

  static getDerivedStateFromError(failure: Error) {
    return { failure };
  }

  override componentDidCatch(failure: Error, { componentStack }: ErrorInfo): void {
    console.error(`${this.props.what} could not be shown: ${failure.message}`, componentStack);
  }

  override render(): ReactNode {
    const { failure } = this.state;
    if (!failure) return this.props.children;
    if (this.props.otherwise !== undefined) return this.props.otherwise;
    return (
      <div className={styles.note} role="alert">
        <b>The bench could not show {this.props.what}.</b> {failure.message.slice(0, 300)} Nothing that is stored is
        touched by this.
        <div className={styles.actions}>
          <Action onClick={() => this.setState({ failure: undefined })}>try again</Action>
        </div>
      </div>
    );
  }
}
