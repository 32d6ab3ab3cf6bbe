import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { freePorts } from "../scripts/free-ports";
import { up } from "./rig";

/** An application of the framework that holds one page with nothing on it, and one route that answers nothing. */
export class EmptyApp {
  private constructor(
    /** Of the page. */
    readonly address: string,
    private readonly server: ChildProcess,
    private readonly folder: string,
  ) {}

  static async make(): Promise<EmptyApp> {
    const folder = mkdtempSync(join(tmpdir(), "finch-empty-"));
    const write = (name: string, text: string) => writeFileSync(join(folder, name), text);
    mkdirSync(join(folder, "app"));
    symlinkSync(join(process.cwd(), "node_modules"), join(folder, "node_modules"));
    write("package.json", '{"name":"empty","private":true}');
    write("next.config.mjs", 'export default { turbopack: { root: "/" }, typescript: { ignoreBuildErrors: true } };');
    write(
      "app/layout.jsx",
      'export const metadata = { title: "Empty", description: "Nothing" };\n' +
        'export default function Layout({ children }) { return <html lang="en"><body>{children}</body></html>; }',
    );
    write("app/page.jsx", '"use client";\nexport default function Page() { return <main><p>Empty</p></main>; }');
    mkdirSync(join(folder, "app", "empty"));
    write(
      "app/empty/route.js",
      'export const dynamic = "force-dynamic";\nexport function GET() { return Response.json({}); }',
    );
    const env = { ...process.env, NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" as const };
    const next = join("node_modules", "next", "dist", "bin", "next");
    const built = spawnSync(process.execPath, [next, "build"], { cwd: folder, env, encoding: "utf8" });
    if (built.status !== 0) throw new Error(built.stdout + built.stderr);
    const port = await freePorts(1);
    const args = [next, "start", "-p", String(port), "-H", "127.0.0.1"];
    const server = spawn(process.execPath, args, { cwd: folder, env, stdio: "ignore" });
    const address = `http://127.0.0.1:${port}/`;
    await up(address);
    return new EmptyApp(address, server, folder);
  }

  get route(): string {
    return `${this.address}empty`;
  }

  stop(): void {
    this.server.kill();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
