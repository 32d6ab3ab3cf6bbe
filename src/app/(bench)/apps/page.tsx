import type { Metadata } from "next";
import { AppsView } from "@/ui/apps/AppsView";

export const metadata: Metadata = { title: "Apps" };

export default function AppsPage() {
  return <AppsView />;
}
