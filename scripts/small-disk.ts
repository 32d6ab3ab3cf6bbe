import { spawnSync } from "node:child_process";
import { mkdtempSync, rmdirSync, rmSync, statfsSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** A disk of some megabytes, to be filled and freed. */
export class SmallDisk {
  private constructor(readonly folder: string) {}

  /** Mounts one; undefined where that may not be done. */
  static mount(megabytes: number): SmallDisk | undefined {
    const folder = mkdtempSync(join(tmpdir(), "finch-disk-"));
    const { status } = spawnSync("mount", ["-t", "tmpfs", "-o", `size=${megabytes}m`, "tmpfs", folder]);
    if (status === 0) return new SmallDisk(folder);
    rmdirSync(folder);
    return undefined;
  }

  /** Leaves so many bytes free. */
  leave(bytes: number): void {
    this.free();
    const { bavail, bsize } = statfsSync(this.folder);
    writeFileSync(this.filler, Buffer.alloc(Math.max(bavail * bsize - bytes, 0)));
  }

  free(): void {
    rmSync(this.filler, { force: true });
  }

  unmount(): void {
    spawnSync("umount", ["-l", this.folder]);
    rmdirSync(this.folder);
  }

  private get filler(): string {
    return join(this.folder, "filler");
  }
}
