import Link from "next/link";

export default function NotFound() {
  return (
    <main style={{ padding: 20 }}>
      <h1>There is nothing at this address</h1>
      <p>
        The app may have been deleted. See <Link href="/apps">what apps there are</Link>.
      </p>
    </main>
  );
}
