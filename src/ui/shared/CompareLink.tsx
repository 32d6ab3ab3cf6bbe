import Link from "next/link";
import { useParams } from "next/navigation";

/** Leads to Compare, on new candidates that go on from a message of a conversation; a visitor's is asked again. */
export function CompareLink({ conversation, message, turn }: { conversation: string; message: string; turn: number }) {
  const { slug } = useParams<{ slug: string }>();
  return (
    <Link href={`/apps/${slug}/compare?${new URLSearchParams({ conversation, after: message, turn: String(turn) })}`}>
      compare
    </Link>
  );
}
