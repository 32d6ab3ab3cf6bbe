import { constants, deflateRawSync, deflateSync } from "node:zlib";

/**
 * A PDF of one page whose content is packed twice (ISO 32000-1, 7.4.4): a few kilobytes that come to so many MiB. What
 * reads it would have to have all of them.
 */
export function packedPdf(mebibytes: number): Buffer {
  const one = "BT /F1 11 Tf (Aye.) Tj ET ";
  const content = packed(Buffer.from(one.repeat((1024 * 1024) / one.length)), mebibytes);
  const stream = deflateSync(content, { level: 9 });
  const parts = [
    Buffer.from(
      "%PDF-1.7\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Count 1 /Kids [4 0 R] >>\nendobj\n" +
        "3 0 obj\n<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>\nendobj\n" +
        "4 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 3 0 R >> >> /Contents 5 0 R >>\nendobj\n" +
        `5 0 obj\n<< /Length ${stream.length} /Filter [/FlateDecode /FlateDecode] >>\nstream\n`,
    ),
    stream,
    Buffer.from("\nendstream\nendobj\ntrailer\n<< /Size 6 /Root 1 0 R >>\n%%EOF\n"),
  ];
  return Buffer.concat(parts);
}

/** Bytes that come to a text so many times over, as one stream (RFC 1950): blocks that know nothing of each other. */
function packed(text: Buffer, times: number): Buffer {
  const block = deflateRawSync(text, { finishFlush: constants.Z_FULL_FLUSH });
  return Buffer.concat([Buffer.from([0x78, 0x9c]), ...Array.from({ length: times }, () => block), deflateRawSync("")]);
}
