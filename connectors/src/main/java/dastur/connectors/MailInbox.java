package dastur.connectors;

import jakarta.mail.Address;
import jakarta.mail.BodyPart;
import jakarta.mail.Flags;
import jakarta.mail.Folder;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.Multipart;
import jakarta.mail.Part;
import jakarta.mail.Session;
import jakarta.mail.Store;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.search.FlagTerm;
import java.io.IOException;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Properties;
import java.util.function.Consumer;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Reads what is answered to mails from a mailbox over IMAP (RFC 9051), within limits of time and size. */
public final class MailInbox {
    private static final System.Logger LOG = System.getLogger(MailInbox.class.getName());
    private static final int MOST_AT_ONCE = 50;
    private static final int MOST_BYTES = 1_000_000;
    private static final int MOST_TEXT = 20_000;

    /** @param secure whether it speaks TLS from the start; @param password empty when it is not set */
    public record Settings(String host, int port, boolean secure, String user, Supplier<Optional<String>> password) {}

    /**
     * A mail that came in.
     *
     * @param id its Message-ID
     * @param from the sender's address, in small letters
     * @param answersTo the Message-IDs it answers, the nearest first
     * @param automatic whether a machine wrote it, such as a notice of absence (RFC 3834)
     */
    public record Reply(
            String id, String from, String subject, List<String> answersTo, String text, boolean automatic) {}

    /** The mailbox could not be read. */
    public static final class NotRead extends Exception {
        NotRead(String message) {
            super(message);
        }
    }

    private final Settings settings;
    private final Session session;

    public MailInbox(Settings settings) {
        this.settings = settings;
        Properties properties = new Properties();
        String protocol = protocol();
        properties.setProperty("mail." + protocol + ".connectiontimeout", "5000");
        properties.setProperty("mail." + protocol + ".timeout", "10000");
        properties.setProperty("mail." + protocol + ".ssl.checkserveridentity", "true");
        this.session = Session.getInstance(properties);
    }

    private String protocol() {
        return settings.secure() ? "imaps" : "imap";
    }

    /** Gives every unread mail to a taker and marks it as read when the taker did not throw. @return how many there were */
    public int takeUnread(Consumer<Reply> taker) throws NotRead {
        String password = settings.password().get().orElseThrow(() -> new NotRead("The mailbox's secret is not set."));
        try (Store store = session.getStore(protocol())) {
            store.connect(settings.host(), settings.port(), settings.user(), password);
            try (Folder inbox = store.getFolder("INBOX")) {
                inbox.open(Folder.READ_WRITE);
                Message[] unread = inbox.search(new FlagTerm(new Flags(Flags.Flag.SEEN), false));
                int taken = 0;
                for (Message message : Arrays.asList(unread).subList(0, Math.min(unread.length, MOST_AT_ONCE))) {
                    if (take(message, taker)) {
                        message.setFlag(Flags.Flag.SEEN, true);
                        taken++;
                    }
                }
                return taken;
            }
        } catch (MessagingException e) {
            throw new NotRead("The mailbox cannot be read: " + MailConnector.reason(e));
        }
    }

    /** One mail that cannot be read, or not be taken, must not keep the others waiting. */
    private static boolean take(Message message, Consumer<Reply> taker) {
        Optional<Reply> reply;
        try {
            reply = reply(message);
        } catch (MessagingException | IOException | IllegalArgumentException e) {
            LOG.log(
                    System.Logger.Level.INFO,
                    "a mail was left alone: it cannot be read ({0})",
                    e.getClass().getSimpleName());
            return true;
        }
        try {
            reply.ifPresent(taker);
            return true;
        } catch (RuntimeException e) {
            LOG.log(System.Logger.Level.WARNING, "a mail could not be taken and stays unread", e);
            return false;
        }
    }

    /** What a mail says; empty when it is too large, or nobody sent it. */
    private static Optional<Reply> reply(Message message) throws MessagingException, IOException {
        String id = header(message, "Message-ID");
        Address[] from = message.getFrom();
        if (id == null
                || message.getSize() > MOST_BYTES
                || from == null
                || from.length != 1
                || !(from[0] instanceof InternetAddress sender)) {
            return Optional.empty();
        }
        List<String> answersTo = Stream.of(header(message, "In-Reply-To"), header(message, "References"))
                .flatMap(h ->
                        h == null ? Stream.empty() : Arrays.stream(h.trim().split("\\s+")).toList().reversed().stream())
                .distinct()
                .limit(20)
                .toList();
        String auto = header(message, "Auto-Submitted");
        String text = text(message, 0);
        return Optional.of(new Reply(
                id,
                sender.getAddress().toLowerCase(Locale.ROOT),
                message.getSubject() == null ? "" : message.getSubject(),
                answersTo,
                text.substring(0, Math.min(text.length(), MOST_TEXT)),
                auto != null && !auto.equalsIgnoreCase("no")));
    }

    private static @Nullable String header(Message message, String name) throws MessagingException {
        String[] values = message.getHeader(name);
        return values == null || values.length == 0 ? null : values[0];
    }

    /** The first plain text in a mail. */
    private static String text(Part part, int depth) throws MessagingException, IOException {
        if (part.isMimeType("text/plain") && part.getContent() instanceof String text) {
            return text;
        }
        if (depth < 5 && part.getContent() instanceof Multipart parts) {
            for (int i = 0; i < Math.min(parts.getCount(), 20); i++) {
                BodyPart inner = parts.getBodyPart(i);
                String text = text(inner, depth + 1);
                if (!text.isBlank()) {
                    return text;
                }
            }
        }
        return "";
    }
}
