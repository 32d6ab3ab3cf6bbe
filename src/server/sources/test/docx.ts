import { crc32, deflateRawSync } from "node:zlib";

/** A package (ZIP, APPNOTE 6.3) of some files; `claims` is how large one says that it is, where that is a lie. */
export function zipOf(files: readonly { name: string; bytes: Buffer; claims?: number }[]): Buffer {
  const parts: Buffer[] = [];
  const entries: Buffer[] = [];
  let at = 0;
  for (const { name, bytes, claims = bytes.length } of files) {
    const packed = deflateRawSync(bytes);
    const title = Buffer.from(name);
    const about = Buffer.alloc(26);
    about.writeUInt16LE(20, 0);
    about.writeUInt16LE(8, 4);
    about.writeUInt32LE(crc32(bytes), 10);
    about.writeUInt32LE(packed.length, 14);
    about.writeUInt32LE(claims, 18);
    about.writeUInt16LE(title.length, 22);
    parts.push(Buffer.from("PK\u0003\u0004"), about, title, packed);
    const entry = Buffer.alloc(42);
    entry.writeUInt16LE(20, 0);
    about.copy(entry, 2, 0, 24);
    entry.writeUInt32LE(at, 38);
    entries.push(Buffer.from("PK\u0001\u0002"), entry, title);
    at += 4 + about.length + title.length + packed.length;
  }
  const directory = Buffer.concat(entries);
  const end = Buffer.alloc(18);
  end.writeUInt16LE(files.length, 4);
  end.writeUInt16LE(files.length, 6);
  end.writeUInt32LE(directory.length, 8);
  end.writeUInt32LE(at, 12);
  return Buffer.concat([...parts, directory, Buffer.from("PK\u0005\u0006"), end]);
}

/** A document of an office program with some XML as its body. */
export function docxOf(body: string): Buffer {
  const space = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"';
  const styles = `<w:styles ${space}><w:style w:styleId="H1"><w:name w:val="heading 1"/></w:style></w:styles>`;
  return zipOf([
    { name: "[Content_Types].xml", bytes: Buffer.from("<Types/>") },
    { name: "word/styles.xml", bytes: Buffer.from(styles) },
    {
      name: "word/document.xml",
      bytes: Buffer.from(`<?xml version="1.0"?><w:document ${space}><w:body>${body}</w:body></w:document>`),
    },
  ]);
}
