export default function NothingHere() {
  return (
    <main className="talk-nothing">
      <h1>There is nothing here</h1>
      <p>The address may be misspelt, or the page is closed.</p>
    </main>
  );
}
