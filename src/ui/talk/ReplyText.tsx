import { Dressed, type TextDress } from "../shared/markdown/dress";
import { Markdown } from "../shared/markdown/Markdown";

const ofPage: TextDress = {
  text: "talk-text",
  scroll: "talk-scroll",
  fence: "talk-fence",
  code: "talk-code",
  copy: "talk-word talk-copy",
  written: "talk-written",
  note: undefined,
  action: "talk-word",
  said: { copy: "Copy", copied: "Copied", failed: "It can't be copied here" },
};

/** The words of a reply on the visitors' page, in the classes that a developer's style sheet knows. */
export default function ReplyText(shown: { text: string; isArriving: boolean; isPlain: boolean }) {
  return (
    <Dressed value={ofPage}>
      <Markdown {...shown} />
    </Dressed>
  );
}
