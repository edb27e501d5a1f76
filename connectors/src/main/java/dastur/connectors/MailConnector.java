package dastur.connectors;

import dastur.core.people.Channels;
import dastur.core.run.Meeting;
import jakarta.activation.DataHandler;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.FolderNotFoundException;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.SendFailedException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.AddressException;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeBodyPart;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import jakarta.mail.util.ByteArrayDataSource;
import java.net.ConnectException;
import java.net.SocketTimeoutException;
import java.nio.charset.StandardCharsets;
import java.util.Date;
import java.util.Optional;
import java.util.Properties;
import java.util.function.Supplier;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLSocketFactory;
import org.eclipse.angus.mail.util.MailConnectException;
import org.jspecify.annotations.Nullable;

/** Sends one mail over SMTP (RFC 5321), within limits of time. */
public final class MailConnector {
    /** @param password of the server's user; empty when it is not set */
    public record Settings(Channels.Mail mail, Supplier<Optional<String>> password) {
        /** One that takes what comes, in the clear: on this machine. */
        public static Settings open(String host, int port, String from) {
            return new Settings(
                    new Channels.Mail(new Channels.Server(host, port, Channels.Safety.NONE, null), from, "Dastur"),
                    Optional::empty);
        }
    }

    /**
     * A mail as plain text.
     *
     * @param key names it: the Message-ID is made of it, so a repeated mail is the same mail
     * @param thread what the Message-ID is made of instead, where an answer is to be known by it; null for the key
     * @param meeting what it invites to, for the calendar of whoever gets it; null for nothing
     */
    public record Mail(
            String key,
            String to,
            String subject,
            String text,
            @Nullable String thread,
            @Nullable Meeting meeting) {
        /** One that needs no answer. */
        public Mail(String key, String to, String subject, String text) {
            this(key, to, subject, text, null, null);
        }
    }

    /** The mail was not accepted. */
    public static final class NotSent extends Exception {
        NotSent(String message) {
            super(message);
        }
    }

    private final Supplier<Settings> settings;
    private final @Nullable SSLSocketFactory trust;

    /** @param settings asked for each mail, since they may be set anew at any time */
    public MailConnector(Supplier<Settings> settings) {
        this(settings, null);
    }

    /** @param trust whose certificates are believed; null for those that the platform believes */
    MailConnector(Supplier<Settings> settings, @Nullable SSLSocketFactory trust) {
        this.settings = settings;
        this.trust = trust;
    }

    private Session session(Channels.Server server) {
        Properties properties = new Properties();
        properties.setProperty("mail.smtp.host", server.host());
        properties.setProperty("mail.smtp.port", String.valueOf(server.port()));
        properties.setProperty("mail.smtp.connectiontimeout", "5000");
        properties.setProperty("mail.smtp.timeout", "10000");
        properties.setProperty("mail.smtp.writetimeout", "10000");
        properties.setProperty("mail.smtp.auth", String.valueOf(server.user() != null));
        keepPrivate(properties, "mail.smtp", server.safety(), trust);
        return Session.getInstance(properties);
    }

    /** Never falls back to the clear, and believes a certificate only for the name that was asked for. */
    static void keepPrivate(
            Properties properties, String protocol, Channels.Safety safety, @Nullable SSLSocketFactory trust) {
        if (trust != null) {
            properties.put(protocol + ".ssl.socketFactory", trust);
        }
        properties.setProperty(protocol + ".ssl.checkserveridentity", "true");
        switch (safety) {
            case TLS -> properties.setProperty(protocol + ".ssl.enable", "true");
            case STARTTLS -> {
                properties.setProperty(protocol + ".starttls.enable", "true");
                properties.setProperty(protocol + ".starttls.required", "true");
            }
            case NONE -> {
                // As it was said.
            }
        }
    }

    /** @return the name under which it was accepted: its Message-ID, made of its key */
    public String send(Mail mail, Date at) throws NotSent {
        Settings now = settings.get();
        Channels.Server server = now.mail().server();
        String from = now.mail().from();
        String domain = from.substring(from.indexOf('@') + 1);
        String id = "<" + (mail.thread() == null ? mail.key() : mail.thread()) + "@" + domain + ">";
        try {
            MimeMessage message = new MimeMessage(session(server)) {
                @Override
                protected void updateMessageID() throws MessagingException {
                    setHeader("Message-ID", id);
                }
            };
            message.setFrom(new InternetAddress(from, now.mail().name(), StandardCharsets.UTF_8.name()));
            message.setRecipient(Message.RecipientType.TO, new InternetAddress(mail.to(), true));
            message.setSubject(mail.subject(), StandardCharsets.UTF_8.name());
            write(message, mail, from, at);
            message.setSentDate(at);
            if (server.user() == null) {
                Transport.send(message);
            } else {
                Transport.send(
                        message,
                        server.user(),
                        now.password().get().orElseThrow(() -> new NotSent("The mail server's password is not set.")));
            }
            return "<" + mail.key() + "@" + domain + ">";
        } catch (MessagingException | java.io.UnsupportedEncodingException e) {
            throw new NotSent(reason(e));
        }
    }

    /** Both kinds say the same: whoever reads no calendars reads the text (RFC 2046, 5.1.4; RFC 6047). */
    private static void write(MimeMessage message, Mail mail, String from, Date at) throws MessagingException {
        if (mail.meeting() == null) {
            message.setText(mail.text(), StandardCharsets.UTF_8.name());
            return;
        }
        Invitation invitation = new Invitation(mail.meeting(), from, mail.to(), mail.subject(), mail.text());
        MimeBodyPart text = new MimeBodyPart();
        text.setText(mail.text(), StandardCharsets.UTF_8.name());
        MimeBodyPart calendar = new MimeBodyPart();
        calendar.setDataHandler(new DataHandler(new ByteArrayDataSource(
                invitation.text(at.toInstant()).getBytes(StandardCharsets.UTF_8), "text/calendar")));
        calendar.setHeader("Content-Type", "text/calendar; charset=utf-8; method=" + invitation.method());
        message.setContent(new MimeMultipart("alternative", text, calendar));
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
            when x.getCause() instanceof SSLException ->
                "The mail server's certificate is not one that can be trusted for its name, or it speaks no TLS there.";
            case MessagingException x
            when String.valueOf(x.getMessage()).contains("STARTTLS") ->
                "The mail server does not turn to TLS (STARTTLS), so nothing was said to it.";
            case MessagingException x
            when x.getCause() instanceof SocketTimeoutException -> "The mail server did not answer in time.";
            case MessagingException x
            when x.getCause() instanceof ConnectException -> "The mail server cannot be reached.";
            default -> "The mail server broke off in the middle.";
        };
    }
}
