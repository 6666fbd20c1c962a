import { createTransport } from 'nodemailer';

/** How mail is sent: by which server, and from whom. */
export interface MailServer {
  /** `smtp://` or `smtps://`, with the name and password where it wants them. */
  readonly url: string;
  readonly from: string;
}

const timeoutMs = 15_000;

interface Mail {
  readonly to: readonly string[];
  readonly subject: string;
  readonly text: string;
  /** The same for the same mail, so that one that is sent twice is known. */
  readonly id: string;
}

/** Sends a mail. Returns why it could not be sent, as a sentence; null where it was. */
export async function sendMail(
  { url, from }: MailServer,
  { to, subject, text, id }: Mail,
): Promise<string | null> {
  const transport = createTransport({
    url,
    connectionTimeout: timeoutMs,
    greetingTimeout: timeoutMs,
    socketTimeout: timeoutMs,
    disableFileAccess: true,
    disableUrlAccess: true,
  });
  try {
    await transport.sendMail({ from, to: [...to], subject, text, messageId: `<${id}@vast-knot>` });
    return null;
  } catch (thrown) {
    return `The mail server does not take it: ${thrown instanceof Error ? thrown.message : String(thrown)}`;
  } finally {
    transport.close();
  }
}
