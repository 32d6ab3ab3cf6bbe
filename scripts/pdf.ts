/** A line of a page, in points from its foot, and how large its letters are. */
interface PdfLine {
  text: string;
  size: number;
}

/**
 * A PDF of plain pages (ISO 32000-1), each of lines from its top down; a line that begins with `# ` is a heading, an
 * empty one parts paragraphs. A page that is null shows a picture and has no text, as if it were scanned.
 */
export function pdfOf(pages: readonly (readonly string[] | null)[]): Buffer {
  const objects: string[] = [
    "<< /Type /Catalog /Pages 2 0 R >>",
    `<< /Type /Pages /Count ${pages.length} /Kids [${pages.map((_, at) => `${4 + at * 2} 0 R`).join(" ")}] >>`,
    "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
  ];
  for (const [at, page] of pages.entries()) {
    const drawn = page === null ? picture : wordsOf(page.map(lineOf));
    objects.push(
      `<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Resources << /Font << /F1 3 0 R >> >> /Contents ${5 + at * 2} 0 R >>`,
      `<< /Length ${Buffer.byteLength(drawn, "latin1")} >>\nstream\n${drawn}\nendstream`,
    );
  }
  let text = "%PDF-1.7\n";
  const starts = objects.map((object, at) => {
    const start = text.length;
    text += `${at + 1} 0 obj\n${object}\nendobj\n`;
    return start;
  });
  const table = starts.map((start) => `${String(start).padStart(10, "0")} 00000 n \n`).join("");
  const size = objects.length + 1;
  text += `xref\n0 ${size}\n0000000000 65535 f \n${table}trailer\n<< /Size ${size} /Root 1 0 R >>\nstartxref\n${text.length}\n%%EOF\n`;
  return Buffer.from(text, "latin1");
}

/** One pixel, as large as the page. */
const picture = "q 595 0 0 842 0 0 cm BI /W 1 /H 1 /CS /G /BPC 8 ID \u0080 EI Q";

function lineOf(text: string): PdfLine {
  return text.startsWith("# ") ? { text: text.slice(2), size: 18 } : { text, size: 11 };
}

function wordsOf(lines: readonly PdfLine[]): string {
  let y = 800;
  return lines
    .map(({ text, size }) => {
      y -= text === "" ? 12 : size * 1.3;
      return text === "" ? "" : `BT /F1 ${size} Tf 60 ${y.toFixed(1)} Td (${text.replace(/[\\()]/g, "\\$&")}) Tj ET`;
    })
    .join("\n");
}
