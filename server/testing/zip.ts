import { crc32, deflateRawSync } from 'node:zlib';

type Part = {
  readonly name: string;
  readonly bytes: Buffer;
  /** What the file says of the size, where that is a lie. */ readonly claims?: number;
};

/** A ZIP file, also one that no honest program writes. Source: PKWARE APPNOTE.TXT 6.3.10, 4.3. */
export function zipOf(parts: readonly Part[]): Buffer {
  const files: Buffer[] = [];
  const index: Buffer[] = [];
  let at = 0;
  for (const { name, bytes, claims } of parts) {
    const packed = deflateRawSync(bytes, { level: 9 });
    const fixed = Buffer.alloc(26);
    fixed.writeUInt16LE(20, 0); // version needed
    fixed.writeUInt16LE(8, 4); // deflate
    fixed.writeUInt32LE(crc32(bytes), 10);
    fixed.writeUInt32LE(packed.length, 14);
    fixed.writeUInt32LE(claims ?? bytes.length, 18);
    fixed.writeUInt16LE(name.length, 22);
    const file = Buffer.concat([Buffer.from('PK\u0003\u0004', 'latin1'), fixed, Buffer.from(name), packed]);
    const rest = Buffer.alloc(14);
    rest.writeUInt32LE(at, 10);
    index.push(Buffer.concat([Buffer.from('PK\u0001\u0002\u0014\u0000', 'latin1'), fixed, rest, Buffer.from(name)]));
    files.push(file);
    at += file.length;
  }
  const directory = Buffer.concat(index);
  const end = Buffer.alloc(22);
  end.write('PK\u0005\u0006', 0, 'latin1');
  end.writeUInt16LE(parts.length, 8);
  end.writeUInt16LE(parts.length, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...files, directory, end]);
}

const XML = '<?xml version="1.0" encoding="UTF-8"?>';
const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const REL = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';

/** A workbook of one page whose XML is said (what stands in `worksheet`), with more parts beside it. Source: ECMA-376 Part 1,
 *  SpreadsheetML. */
export function workbookOf(worksheet: string, more: { readonly workbook?: string; readonly parts?: readonly Part[] } = {}): Buffer {
  const part = (name: string, text: string): Part => ({ name, bytes: Buffer.from(XML + text) });
  return zipOf([
    part(
      '[Content_Types].xml',
      `<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ` +
        `ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ` +
        `ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ` +
        `ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/><Override ` +
        `PartName="/xl/worksheets/sheet1.xml" ` +
        `ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/></Types>`,
    ),
    part(
      '_rels/.rels',
      `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="r1" Type="${REL}/officeDocument" ` +
        `Target="xl/workbook.xml"/></Relationships>`,
    ),
    part(
      'xl/workbook.xml',
      `<workbook xmlns="${MAIN}" xmlns:r="${REL}"><sheets><sheet name="A" sheetId="1" ` +
        `r:id="r1"/></sheets>${more.workbook ?? ''}</workbook>`,
    ),
    part(
      'xl/_rels/workbook.xml.rels',
      `<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="r1" Type="${REL}/worksheet" ` +
        `Target="worksheets/sheet1.xml"/></Relationships>`,
    ),
    part('xl/worksheets/sheet1.xml', `<worksheet xmlns="${MAIN}">${worksheet}</worksheet>`),
    ...(more.parts ?? []),
  ]);
}

/** A cell with a text in it. */
export const cellOf = (ref: string, text: string): string => `<c r="${ref}" t="inlineStr"><is><t>${text}</t></is></c>`;
