import Link from "next/link";
import { useParams } from "next/navigation";
import type { ProblemKind } from "@/core/problem/problem";
import { partsOfKinds, partWords, providerAddress } from "../../shared/provider-parts";

/** Leads from a failure to what of the provider can be put right; nothing where that would not help. */
export function ProviderLink({
  kind,
  provider,
  conversation,
}: {
  kind: ProblemKind;
  /** Its lasting name. */
  provider: string;
  conversation?: string;
}) {
  const { slug } = useParams<{ slug?: string }>();
  const part = partsOfKinds[kind];
  if (!part) return null;
  return <Link href={providerAddress({ provider, part, app: slug, conversation })}>{partWords[part]}</Link>;
}
