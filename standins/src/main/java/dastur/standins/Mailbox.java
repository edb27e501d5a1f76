package dastur.standins;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Properties;

/**
 * An SMTP server that takes everything and shows it on a page; on the page people answer, and Dastur reads the answers
 * from its own mailbox over IMAP.
 */
public final class Mailbox {
    /** A mail that came in. */
    public record Mail(String id, String to, String from, String subject, String text, String date) {}

    /** The mailbox that Dastur reads. */
    public static final String OWN = "dastur@kestrel.example";

    /** What is sent there comes to the same mailbox. */
    public static final String MACHINES = "copies@kestrel.example";

    private final String password;
    /** The ports asked for; once started, those it has, so that it comes back where it was. */
    private int port;

    private int imapPort;

    private GreenMail server;

    /** @param password of Dastur's own mailbox */
    Mailbox(int port, int imapPort, String password) {
        this.port = port;
        this.imapPort = imapPort;
        this.password = password;
    }

    /** Starts taking mail; again after {@link #stop}. */
    public synchronized void start() {
        ServerSetup setup = new ServerSetup(port, "127.0.0.1", ServerSetup.PROTOCOL_SMTP);
        ServerSetup imap = new ServerSetup(imapPort, "127.0.0.1", ServerSetup.PROTOCOL_IMAP);
        server = new GreenMail(new ServerSetup[] {setup, imap});
        server.setUser(OWN, OWN, password);
        server.start();
        port = server.getSmtp().getPort();
        imapPort = server.getImap().getPort();
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

    /** Where Dastur reads its mailbox. */
    public synchronized int imapPort() {
        return imapPort;
    }

    /** A person answers a mail. */
    public void answer(String person, String messageId, String subject, String text) {
        try {
            Properties properties = new Properties();
            properties.setProperty("mail.smtp.host", "127.0.0.1");
            properties.setProperty("mail.smtp.port", String.valueOf(port()));
            MimeMessage message = new MimeMessage(Session.getInstance(properties));
            message.setFrom(new InternetAddress(person));
            message.setRecipient(Message.RecipientType.TO, new InternetAddress(OWN));
            message.setSubject("Re: " + subject, "UTF-8");
            message.setHeader("In-Reply-To", messageId);
            message.setHeader("References", messageId);
            message.setText(text, "UTF-8");
            Transport.send(message);
        } catch (MessagingException e) {
            throw new IllegalStateException("an answer could not be sent", e);
        }
    }

    /** A machine writes a mail. @param to whom its head names; it is delivered to Dastur's own mailbox */
    public void machine(String from, String to, String subject, String text) {
        try {
            Properties properties = new Properties();
            properties.setProperty("mail.smtp.host", "127.0.0.1");
            properties.setProperty("mail.smtp.port", String.valueOf(port()));
            MimeMessage message = new MimeMessage(Session.getInstance(properties));
            message.setFrom(new InternetAddress(from));
            message.setRecipient(Message.RecipientType.TO, new InternetAddress(to));
            message.setSubject(subject, "UTF-8");
            message.setHeader("Auto-Submitted", "auto-generated");
            message.setText(text, "UTF-8");
            Transport.send(message, new InternetAddress[] {new InternetAddress(OWN)});
        } catch (MessagingException e) {
            throw new IllegalStateException("a machine's mail could not be sent", e);
        }
    }

    /** All mails, the newest first. */
    public synchronized List<Mail> mails() {
        if (server == null) {
            return List.of();
        }
        List<Mail> mails = new ArrayList<>(Arrays.stream(server.getReceivedMessages())
                .filter(m -> !isForDastur(m))
                .map(Mailbox::mail)
                .toList());
        java.util.Collections.reverse(mails);
        return mails;
    }

    /** Asked before anything else is read: what comes to Dastur may be broken. */
    private static boolean isForDastur(MimeMessage m) {
        try {
            String to = String.valueOf(m.getRecipients(Message.RecipientType.TO)[0]);
            return to.equals(OWN) || to.equals(MACHINES);
        } catch (MessagingException e) {
            throw new IllegalStateException("a mail that was taken has no recipient", e);
        }
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
