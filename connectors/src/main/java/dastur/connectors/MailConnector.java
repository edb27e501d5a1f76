package dastur.connectors;

import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.FolderNotFoundException;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.SendFailedException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.AddressException;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeMessage;
import java.net.ConnectException;
import java.net.SocketTimeoutException;
import java.nio.charset.StandardCharsets;
import java.util.Date;
import java.util.Properties;
import org.eclipse.angus.mail.util.MailConnectException;
import org.jspecify.annotations.Nullable;

/** Sends one mail over SMTP (RFC 5321), within limits of time. */
public final class MailConnector {
    /** @param from the sender's address */
    public record Settings(String host, int port, String from) {}

    /**
     * A mail as plain text.
     *
     * @param key names it: the Message-ID is made of it, so a repeated mail is the same mail
     * @param thread what the Message-ID is made of instead, where an answer is to be known by it; null for the key
     */
    public record Mail(
            String key,
            String to,
            String subject,
            String text,
            @Nullable String thread) {
        /** One that needs no answer. */
        public Mail(String key, String to, String subject, String text) {
            this(key, to, subject, text, null);
        }
    }

    /** The mail was not accepted. */
    public static final class NotSent extends Exception {
        NotSent(String message) {
            super(message);
        }
    }

    private final Settings settings;
    private final Session session;

    public MailConnector(Settings settings) {
        this.settings = settings;
        Properties properties = new Properties();
        properties.setProperty("mail.smtp.host", settings.host());
        properties.setProperty("mail.smtp.port", String.valueOf(settings.port()));
        properties.setProperty("mail.smtp.connectiontimeout", "5000");
        properties.setProperty("mail.smtp.timeout", "10000");
        properties.setProperty("mail.smtp.writetimeout", "10000");
        this.session = Session.getInstance(properties);
    }

    /** @return the name under which it was accepted: its Message-ID, made of its key */
    public String send(Mail mail, Date at) throws NotSent {
        String domain = settings.from().substring(settings.from().indexOf('@') + 1);
        String id = "<" + (mail.thread() == null ? mail.key() : mail.thread()) + "@" + domain + ">";
        try {
            MimeMessage message = new MimeMessage(session) {
                @Override
                protected void updateMessageID() throws MessagingException {
                    setHeader("Message-ID", id);
                }
            };
            message.setFrom(new InternetAddress(settings.from(), "Dastur", StandardCharsets.UTF_8.name()));
            message.setRecipient(Message.RecipientType.TO, new InternetAddress(mail.to(), true));
            message.setSubject(mail.subject(), StandardCharsets.UTF_8.name());
            message.setText(mail.text(), StandardCharsets.UTF_8.name());
            message.setSentDate(at);
            Transport.send(message);
            return "<" + mail.key() + "@" + domain + ">";
        } catch (MessagingException | java.io.UnsupportedEncodingException e) {
            throw new NotSent(reason(e));
        }
    }

    /** What went wrong, as people know it; the log has the rest. */
    static String reason(Exception e) {
        return switch (e) {
            case AddressException x -> "The address is not valid.";
            case AuthenticationFailedException x -> "The mail server does not accept our user and password.";
            case MailConnectException x -> "The mail server cannot be reached.";
            case SendFailedException x -> "The mail server does not take mail for this address.";
            case FolderNotFoundException x -> "The mail server has no such mailbox.";
            case MessagingException x
            when x.getCause() instanceof SocketTimeoutException -> "The mail server did not answer in time.";
            case MessagingException x
            when x.getCause() instanceof ConnectException -> "The mail server cannot be reached.";
            default -> "The mail server broke off in the middle.";
        };
    }
}
