package dastur.connectors;

import dastur.core.people.Channels;
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
import javax.net.ssl.SSLSocketFactory;
import org.jspecify.annotations.Nullable;

/** Reads what is answered to mails from a mailbox over IMAP (RFC 9051), within limits of time and size. */
public final class MailInbox {
    private static final System.Logger LOG = System.getLogger(MailInbox.class.getName());
    private static final int MOST_AT_ONCE = 50;
    private static final int MOST_BYTES = 1_000_000;
    private static final int MOST_TEXT = 20_000;
    private static final int MOST_ADDRESSES = 50;

    /** @param server with a user; @param password empty when it is not set */
    public record Settings(Channels.Server server, Supplier<Optional<String>> password) {}

    /** What lies in it. @param unread of them, so many nobody has taken */
    public record Standing(int mails, int unread) {}

    /**
     * A mail that came in.
     *
     * @param id its Message-ID
     * @param from the sender's address, in small letters
     * @param to whom it is for, in small letters, as its heads and its envelope say
     * @param answersTo the Message-IDs it answers, the nearest first
     * @param automatic whether a machine wrote it, such as a notice of absence (RFC 3834)
     */
    public record Reply(
            String id,
            String from,
            List<String> to,
            String subject,
            List<String> answersTo,
            String text,
            boolean automatic) {}

    /** The mailbox could not be read. */
    public static final class NotRead extends Exception {
        NotRead(String message) {
            super(message);
        }
    }

    private final Supplier<Optional<Settings>> settings;
    private final @Nullable SSLSocketFactory trust;

    /** @param settings asked at each look, since they may be set anew at any time; empty where no mailbox is read */
    public MailInbox(Supplier<Optional<Settings>> settings) {
        this(settings, null);
    }

    /** @param trust whose certificates are believed; null for those that the platform believes */
    MailInbox(Supplier<Optional<Settings>> settings, @Nullable SSLSocketFactory trust) {
        this.settings = settings;
        this.trust = trust;
    }

    private interface Looking<T> {
        T look(Folder inbox) throws MessagingException;
    }

    private <T> T open(Settings settings, int mode, Looking<T> looking) throws NotRead {
        Channels.Server server = settings.server();
        String password = settings.password().get().orElseThrow(() -> new NotRead("The mailbox's secret is not set."));
        String protocol = server.safety() == Channels.Safety.TLS ? "imaps" : "imap";
        Properties properties = new Properties();
        properties.setProperty("mail." + protocol + ".connectiontimeout", "5000");
        properties.setProperty("mail." + protocol + ".timeout", "10000");
        properties.setProperty("mail." + protocol + ".writetimeout", "10000");
        MailConnector.keepPrivate(properties, "mail." + protocol, server.safety(), trust);
        try (Store store = Session.getInstance(properties).getStore(protocol)) {
            store.connect(server.host(), server.port(), server.user(), password);
            try (Folder inbox = store.getFolder("INBOX")) {
                inbox.open(mode);
                return looking.look(inbox);
            }
        } catch (MessagingException e) {
            throw new NotRead("The mailbox cannot be read: " + MailConnector.reason(e));
        }
    }

    /** What lies in it. Marks and takes nothing. */
    public Standing look() throws NotRead {
        return open(
                settings.get().orElseThrow(() -> new NotRead("No mailbox is set.")),
                Folder.READ_ONLY,
                inbox -> new Standing(inbox.getMessageCount(), inbox.getUnreadMessageCount()));
    }

    /**
     * Gives every unread mail to a taker and marks it as read when the taker did not throw.
     *
     * @return how many there were; none where no mailbox is set
     */
    public int takeUnread(Consumer<Reply> taker) throws NotRead {
        Optional<Settings> now = settings.get();
        return now.isEmpty() ? 0 : open(now.get(), Folder.READ_WRITE, inbox -> take(inbox, taker));
    }

    private static int take(Folder inbox, Consumer<Reply> taker) throws MessagingException {
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
                to(message),
                message.getSubject() == null ? "" : message.getSubject(),
                answersTo,
                text.substring(0, Math.min(text.length(), MOST_TEXT)),
                auto != null && !auto.equalsIgnoreCase("no")));
    }

    /** Also where it was delivered: of a copy that nobody sees, and of one that was passed on, the heads do not tell. */
    private static List<String> to(Message message) throws MessagingException {
        Address[] named = message.getAllRecipients();
        Stream<String> heads = Arrays.stream(named == null ? new Address[0] : named)
                .flatMap(a -> a instanceof InternetAddress i ? Stream.of(i.getAddress()) : Stream.empty());
        Stream<String> envelope = Stream.of(header(message, "Delivered-To"), header(message, "X-Original-To"))
                .flatMap(Stream::ofNullable);
        return Stream.concat(heads, envelope)
                .map(a -> a.strip().toLowerCase(Locale.ROOT))
                .distinct()
                .limit(MOST_ADDRESSES)
                .toList();
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
