/** Runs once when the server starts: the data folder is opened now, so that what is wrong with it shows now. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== "nodejs") return;
  const { bootOrExit } = await import("./server/boot");
  bootOrExit();
}
