import fs from "node:fs";
import { simpleParser } from "mailparser";
import { SMTPServer } from "smtp-server";

/** A mail as the demo's tray shows it. */
export interface ReceivedMail {
  id: number;
  receivedAt: number;
  messageId: string;
  from: string;
  to: string;
  subject: string;
  text: string;
  html: string;
}

const KEPT = 300;

/** A mail server that takes everything and delivers nothing: what it got can be looked at. */
export class MailServer {
  private server: SMTPServer | null = null;
  private received: ReceivedMail[] = [];

  constructor(
    private readonly port: number,
    private readonly file: string,
  ) {
    if (fs.existsSync(file)) this.received = JSON.parse(fs.readFileSync(file, "utf8"));
  }

  mails(): ReceivedMail[] {
    return [...this.received].reverse();
  }

  empty() {
    this.received = [];
    this.save();
  }

  async follow(down: boolean) {
    if (down && this.server) {
      const { server } = this;
      this.server = null;
      await new Promise<void>((resolve) => server.close(() => resolve()));
    } else if (!down && !this.server) await this.listen();
  }

  private async listen() {
    const server = new SMTPServer({
      disabledCommands: ["AUTH", "STARTTLS"],
      logger: false,
      size: 2 ** 20,
      closeTimeout: 500,
      onData: (stream, session, done) => {
        simpleParser(stream)
          .then((mail) => {
            this.received.push({
              id: 1 + (this.received.at(-1)?.id ?? 0),
              receivedAt: Date.now(),
              messageId: mail.messageId ?? "",
              from: mail.from?.text ?? "",
              to: session.envelope.rcptTo.map((to) => to.address).join(", "),
              subject: mail.subject ?? "",
              text: mail.text ?? "",
              html: mail.html || "",
            });
            this.received = this.received.slice(-KEPT);
            this.save();
            done();
          })
          .catch(done);
      },
    });
    server.on("error", () => {});
    await new Promise<void>((resolve, reject) => {
      server.server.once("error", reject);
      server.listen(this.port, "127.0.0.1", resolve);
    });
    this.server = server;
  }

  private save() {
    fs.writeFileSync(`${this.file}.new`, JSON.stringify(this.received));
    fs.renameSync(`${this.file}.new`, this.file);
  }
}
