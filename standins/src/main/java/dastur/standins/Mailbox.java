package dastur.standins;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/** An SMTP server that takes everything and shows it on a page. */
public final class Mailbox {
    /** A mail that came in. */
    public record Mail(String id, String to, String from, String subject, String text, String date) {}

    /** The port asked for; once started, the one it has, so that it comes back where it was. */
    private int port;

    private GreenMail server;

    Mailbox(int port) {
        this.port = port;
    }

    /** Starts taking mail; again after {@link #stop}. */
    public synchronized void start() {
        ServerSetup setup = new ServerSetup(port, "127.0.0.1", ServerSetup.PROTOCOL_SMTP);
        server = new GreenMail(setup);
        server.start();
        port = server.getSmtp().getPort();
    }

    public synchronized void stop() {
        if (server != null) {
            server.stop();
            server = null;
        }
    }

    public synchronized boolean running() {
        return server != null;
    }

    public synchronized int port() {
        return server.getSmtp().getPort();
    }

    /** All mails, the newest first. */
    public synchronized List<Mail> mails() {
        if (server == null) {
            return List.of();
        }
        List<Mail> mails = new ArrayList<>(
                Arrays.stream(server.getReceivedMessages()).map(Mailbox::mail).toList());
        java.util.Collections.reverse(mails);
        return mails;
    }

    private static Mail mail(MimeMessage m) {
        try {
            return new Mail(
                    m.getMessageID(),
                    String.valueOf(m.getRecipients(Message.RecipientType.TO)[0]),
                    String.valueOf(m.getFrom()[0]),
                    m.getSubject(),
                    String.valueOf(m.getContent()).strip(),
                    m.getSentDate() == null ? "" : m.getSentDate().toInstant().toString());
        } catch (MessagingException | IOException e) {
            throw new IllegalStateException("a mail that was taken cannot be read", e);
        }
    }
}
