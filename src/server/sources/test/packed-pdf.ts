import { deflateSync } from "node:zlib";

/**
 * A PDF of one page whose content is packed twice (ISO 32000-1, 7.4.4 and 7.4.5): a few kilobytes that come to so many
 * MiB of blanks. What reads it would have to have all of them.
 */
export function packedPdf(mebibytes: number): Buffer {
  const runs = Buffer.alloc(mebibytes * runsOfMebibyte * 2, Buffer.from([run, 0x20]));
  const stream = deflateSync(Buffer.concat([runs, Buffer.from([endOfRuns])]), { level: 9 });
  const parts = [
    Buffer.from(
      "%PDF-1.7\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Count 1 /Kids [4 0 R] >>\nendobj\n" +
        "3 0 obj\n<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>\nendobj\n" +
        "4 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 3 0 R >> >> /Contents 5 0 R >>\nendobj\n" +
        `5 0 obj\n<< /Length ${stream.length} /Filter [/FlateDecode /RunLengthDecode] >>\nstream\n`,
    ),
    stream,
    Buffer.from("\nendstream\nendobj\ntrailer\n<< /Size 6 /Root 1 0 R >>\n%%EOF\n"),
  ];
  return Buffer.concat(parts);
}

/** What stands before a byte that is repeated 128 times, what ends the runs, and how many of them a MiB has. */
const run = 129;
const endOfRuns = 128;
const runsOfMebibyte = (1024 * 1024) / 128;
