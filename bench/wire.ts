import { randomUUID } from 'node:crypto';
import { connect, type Socket } from 'node:net';

/** A connection that is kept, with as little of its own as can be: it measures a server beside a benchmark whose client is written in C,
 *  on the same cores. One command at a time; answers carry their length. */
export class Wire {
  private readonly socket: Socket;
  private readonly head: string;
  private told: (status: number, text: string) => void = () => undefined;
  private failed: (error: Error) => void = () => undefined;
  private held: Buffer = Buffer.alloc(0);

  constructor(address: string, cookie: string) {
    const { hostname, port, host } = new URL(address);
    this.head = ` HTTP/1.1\r\nHost: ${host}\r\nCookie: ${cookie}\r\nContent-Type: application/json\r\nIdempotency-Key: `;
    this.socket = connect({ host: hostname, port: Number(port), noDelay: true });
    this.socket.on('data', (part) => this.take(part));
    this.socket.on('error', (error) => this.failed(error));
    this.socket.on('close', () => this.failed(new Error('The server closed the connection.')));
  }

  /** Sends a command; resolves with its answer.
   *  Errors: an answer other than 200. */
  command(path: string, body: object): Promise<string> {
    const text = JSON.stringify(body);
    return new Promise((resolve, reject) => {
      this.failed = reject;
      this.told = (status, answer) => (status === 200 ? resolve(answer) : reject(new Error(`${path}: ${status} ${answer}`)));
      this.socket.write(`POST ${path}${this.head}${randomUUID()}\r\nContent-Length: ${Buffer.byteLength(text)}\r\n\r\n${text}`);
    });
  }

  close(): void {
    this.failed = () => undefined;
    this.socket.destroy();
  }

  private take(part: Buffer): void {
    this.held = this.held.length === 0 ? part : Buffer.concat([this.held, part]);
    const end = this.held.indexOf('\r\n\r\n');
    if (end < 0) return;
    const head = this.held.toString('latin1', 0, end);
    const length = Number(/\r\ncontent-length: (\d+)/i.exec(head)?.[1] ?? NaN);
    const whole = end + 4 + length;
    if (this.held.length < whole) return;
    const text = this.held.toString('utf8', end + 4, whole);
    this.held = this.held.subarray(whole);
    this.told(Number(head.slice(9, 12)), text);
  }
}
