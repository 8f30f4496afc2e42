import { createRequire } from 'node:module';
import bwipjs from 'bwip-js/node';
import type { Response } from 'express';
import PDFDocument from 'pdfkit';

const MM = 72 / 25.4;
// TrueType, so that names outside Latin-1 print as they are spelled.
const require = createRequire(import.meta.url);
const FONT = require.resolve('@expo-google-fonts/barlow-condensed/400Regular/BarlowCondensed_400Regular.ttf');
const BOLD = require.resolve('@expo-google-fonts/barlow-condensed/700Bold/BarlowCondensed_700Bold.ttf');
const LEFT = 18;
const WIDTH = 174;
const BOTTOM = 272;

export type PaperColumn = { readonly title: string; readonly mm: number; readonly isRight?: boolean };

/** A paper of the house on A4 as PDF: its name, the code of what it is about to scan, who it goes to, a table that goes on over as many
 *  pages as it needs with its heads on each, and lines below.
 *  Units:  millimetres. */
export class Paper {
  private readonly pdf: InstanceType<typeof PDFDocument>;
  private columns: readonly PaperColumn[] = [];
  private y = LEFT;

  private constructor(pdf: InstanceType<typeof PDFDocument>) {
    this.pdf = pdf;
  }

  /** Begins a paper that is answered as it is written. */
  static async open(res: Response, of: { title: string; number: string; company: string; file: string }): Promise<Paper> {
    const code = await bwipjs.toBuffer({
      bcid: 'code128',
      text: of.number,
      height: 12,
      scale: 3,
      includetext: true,
      backgroundcolor: 'ffffff',
      paddingwidth: 6,
      paddingheight: 2,
    });
    res.type('application/pdf').set('Content-Disposition', `inline; filename="${of.file}"`);
    const pdf = new PDFDocument({ size: 'A4', margin: LEFT * MM, info: { Title: `${of.title} ${of.number}` }, bufferPages: true });
    pdf.pipe(res);
    pdf
      .font(BOLD)
      .fontSize(22)
      .text(of.title, LEFT * MM, LEFT * MM);
    pdf.font(FONT).fontSize(11).text(of.company);
    pdf.image(code, 130 * MM, 15 * MM, { width: 62 * MM });
    const paper = new Paper(pdf);
    paper.y = 45;
    return paper;
  }

  /** Blocks of text side by side, the first line of each loud. */
  blocks(blocks: readonly (readonly string[])[]): void {
    const mm = WIDTH / blocks.length;
    let tallest = this.y;
    for (const [i, [first = '', ...rest]] of blocks.entries()) {
      const [x, width] = [(LEFT + i * mm) * MM, (mm - 4) * MM];
      this.pdf
        .font(BOLD)
        .fontSize(13)
        .text(first, x, this.y * MM, { width });
      for (const line of rest.filter(Boolean)) this.pdf.font(FONT).fontSize(11).text(line, x, this.pdf.y, { width });
      tallest = Math.max(tallest, this.pdf.y / MM);
    }
    this.y = tallest + 6;
  }

  /** Begins a table. */
  table(columns: readonly PaperColumn[]): void {
    this.columns = columns;
    this.line(
      columns.map((c) => c.title),
      BOLD,
    );
  }

  row(cells: readonly string[], isLoud = false): void {
    this.line(cells, isLoud ? BOLD : FONT);
  }

  /** A line below the table, such as a place to sign. */
  note(text: string, gap = 8): void {
    this.makeRoom(gap + 6);
    this.pdf
      .font(FONT)
      .fontSize(10)
      .text(text, LEFT * MM, (this.y + gap) * MM, { width: WIDTH * MM });
    this.y = this.pdf.y / MM;
  }

  end(): void {
    const { count } = this.pdf.bufferedPageRange();
    for (let page = 0; count > 1 && page < count; page += 1) {
      this.pdf.switchToPage(page);
      // Below the margin, where text would begin a page of its own.
      this.pdf.page.margins.bottom = 0;
      this.pdf
        .font(FONT)
        .fontSize(9)
        .text(`${page + 1} / ${count}`, LEFT * MM, 284 * MM, { width: WIDTH * MM, align: 'right', lineBreak: false });
    }
    this.pdf.end();
  }

  private line(cells: readonly string[], font: string): void {
    this.pdf.font(font).fontSize(10);
    const heights = cells.map((cell, i) => this.pdf.heightOfString(cell, { width: ((this.columns[i]?.mm ?? 20) - 1.5) * MM }) / MM);
    const height = Math.max(0, ...heights);
    const isHead = cells.every((cell, i) => cell === this.columns[i]?.title);
    if (this.makeRoom(height) && !isHead)
      this.line(
        this.columns.map((c) => c.title),
        BOLD,
      );
    this.pdf.font(font).fontSize(10);
    let x = LEFT;
    for (const [i, cell] of cells.entries()) {
      const { mm, isRight } = this.columns[i] ?? { mm: 20, isRight: false };
      this.pdf.text(cell, x * MM, this.y * MM, { width: (mm - 1.5) * MM, align: isRight ? 'right' : 'left' });
      x += mm;
    }
    this.y += height + 1.8;
  }

  private makeRoom(height: number): boolean {
    if (this.y + height <= BOTTOM) return false;
    this.pdf.addPage();
    this.y = LEFT;
    return true;
  }
}
