import type { Metadata } from "next";
import { ProvidersView } from "@/ui/providers/ProvidersView";

export const metadata: Metadata = { title: "Providers" };

export default function ProvidersPage() {
  return <ProvidersView />;
}
