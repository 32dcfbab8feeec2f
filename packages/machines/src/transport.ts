/** A simulated machine's line: TCP, switched on and off, cut in the middle. What is said on it is the language's matter. */
import { createServer, type Server, type Socket } from 'node:net';

export interface LineEvents {
  onOpen?(socket: Socket): void;
  onData(socket: Socket, bytes: Uint8Array): void;
  /** Nothing more will be sent; answers may still go out. */
  onEnd?(socket: Socket): void;
  onClose?(socket: Socket): void;
}

export class Transport {
  readonly sockets = new Set<Socket>();
  private server: Server | undefined;
  /** 0 until the first start when any port will do; then always the same. */
  private listenPort: number;
  private readonly host: string;
  private readonly events: LineEvents;

  constructor(port: number, host: string, events: LineEvents) {
    this.listenPort = port;
    this.host = host;
    this.events = events;
  }

  get isOpen(): boolean {
    return this.server !== undefined;
  }

  /** @returns the port in use */
  async open(): Promise<number> {
    if (this.server) return this.listenPort;
    const server = createServer({ allowHalfOpen: true }, (socket) => this.accept(socket));
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject);
      server.listen(this.listenPort, this.host, resolve);
    });
    this.server = server;
    const address = server.address();
    if (typeof address === 'object' && address) this.listenPort = address.port;
    return this.listenPort;
  }

  private accept(socket: Socket): void {
    this.sockets.add(socket);
    socket.on('close', () => {
      this.sockets.delete(socket);
      this.events.onClose?.(socket);
    });
    socket.on('error', () => socket.destroy());
    socket.on('data', (bytes: Uint8Array) => this.events.onData(socket, bytes));
    socket.on('end', () => {
      if (this.events.onEnd) this.events.onEnd(socket);
      else socket.end();
    });
    this.events.onOpen?.(socket);
  }

  /** Pulls the cable only: the sender sees a broken line. */
  drop(): void {
    for (const socket of this.sockets) socket.destroy();
  }

  async close(): Promise<void> {
    this.drop();
    const server = this.server;
    this.server = undefined;
    if (server) await new Promise<void>((resolve) => server.close(() => resolve()));
  }
}
