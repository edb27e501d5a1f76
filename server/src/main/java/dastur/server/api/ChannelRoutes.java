package dastur.server.api;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.people.Channels;
import dastur.core.people.Right;
import dastur.server.App.Design;
import dastur.server.channels.ChannelsNow;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import jakarta.mail.internet.AddressException;
import jakarta.mail.internet.InternetAddress;
import java.net.URI;
import java.time.InstantSource;
import java.util.Date;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * By what people are told and heard (R13): set by administrators, tried before it is kept, and in use from then on without a restart. A
 * password never goes to another server than it was set for, and over no network in the clear.
 */
final class ChannelRoutes {
    private static final int MOST_TEXT = 300;
    private static final int MOST_TRIES_AT_ONCE = 4;

    /** @param user null for nobody @param password whether there is one */
    record ServerView(
            String host,
            int port,
            Channels.Safety safety,
            @Nullable String user,
            boolean password) {}

    /** @param here whether it was set on screen, and not where the application was started */
    record MailView(boolean here, ServerView server, String from, String name) {}

    /** @param server null where no mailbox is read */
    record MailboxView(boolean here, @Nullable ServerView server) {}

    /** @param address null where there is none @param token whether there is one */
    record ChatView(boolean here, @Nullable String address, boolean token) {}

    /** @param address null where nobody said so */
    record AddressView(boolean here, @Nullable String address) {}

    record ChannelsView(MailView mail, MailboxView mailbox, ChatView chat, AddressView address) {}

    /** @param password null to keep the one there is; for nobody, it is not needed */
    record MailBody(
            String host,
            int port,
            Channels.Safety safety,
            @Nullable String user,
            @Nullable String password,
            String from,
            @Nullable String name) {
        /** A body stands in no log. */
        @Override
        public String toString() {
            return "MailBody";
        }
    }

    /** @param used whether a mailbox is read at all; all else is needed only then */
    record MailboxBody(
            boolean used,
            @Nullable String host,
            int port,
            Channels.@Nullable Safety safety,
            @Nullable String user,
            @Nullable String password) {
        @Override
        public String toString() {
            return "MailboxBody";
        }
    }

    /** @param address null or blank for none */
    record ChatBody(@Nullable String address, @Nullable String token) {
        @Override
        public String toString() {
            return "ChatBody";
        }
    }

    record AddressBody(@Nullable String address) {}

    /** How a trial went. @param said what happened, or what went wrong, in words */
    record Tried(boolean worked, String said) {}

    /** What is to be set, with its secret. @param given the secret, typed or as it is; null where none is needed */
    private record Wanted<T>(T what, @Nullable String given, Supplier<Optional<String>> secret) {}

    private final Design design;
    private final ChannelsNow now;
    private final InstantSource clock;
    /** A server that does not answer holds up nobody but who tries it. */
    private final Semaphore trials = new Semaphore(MOST_TRIES_AT_ONCE);

    private ChannelRoutes(Design design, InstantSource clock) {
        this.design = design;
        this.now = design.channels();
        this.clock = clock;
    }

    static Stream<Route> of(Design design, InstantSource clock) {
        ChannelRoutes r = new ChannelRoutes(design, clock);
        return Stream.of(
                Route.get(
                        "/api/channels",
                        Right.ADMINISTER,
                        "By what people are told and heard",
                        ChannelsView.class,
                        q -> r.all()),
                Route.put(
                        "/api/channels/mail",
                        Right.ADMINISTER,
                        "Set where mail goes out",
                        MailBody.class,
                        null,
                        r::setMail),
                Route.put(
                        "/api/channels/mailbox",
                        Right.ADMINISTER,
                        "Set which mailbox is read",
                        MailboxBody.class,
                        null,
                        r::setMailbox),
                Route.put(
                        "/api/channels/chat",
                        Right.ADMINISTER,
                        "Set the chat server",
                        ChatBody.class,
                        null,
                        r::setChat),
                Route.put(
                        "/api/channels/address",
                        Right.ADMINISTER,
                        "Set where people reach the application",
                        AddressBody.class,
                        null,
                        r::setAddress),
                Route.delete(
                        "/api/channels/{which}",
                        Right.ADMINISTER,
                        "Go by what was named at the start again",
                        r::asStarted),
                Route.post(
                        "/api/channels/mail/try",
                        Right.ADMINISTER,
                        "Send a mail to oneself by these settings, without keeping them",
                        MailBody.class,
                        Tried.class,
                        r::tryMail),
                Route.post(
                        "/api/channels/mailbox/try",
                        Right.ADMINISTER,
                        "Look into a mailbox by these settings; takes and marks nothing",
                        MailboxBody.class,
                        Tried.class,
                        r::tryMailbox),
                Route.post(
                        "/api/channels/chat/try",
                        Right.ADMINISTER,
                        "Ask a chat server who we are there",
                        ChatBody.class,
                        Tried.class,
                        r::tryChat));
    }

    private ChannelsView all() {
        Channels set = now.set();
        MailConnector.Settings mail = now.mail();
        Optional<MailInbox.Settings> mailbox = now.mailbox();
        Optional<MatrixConnector.Settings> chat = now.chat();
        return new ChannelsView(
                new MailView(
                        set.mail() != null,
                        server(mail.mail().server(), mail.password()),
                        mail.mail().from(),
                        mail.mail().name()),
                new MailboxView(
                        set.mailbox() != null,
                        mailbox.map(m -> server(m.server(), m.password())).orElse(null)),
                new ChatView(
                        set.chat() != null,
                        chat.map(MatrixConnector.Settings::base).orElse(null),
                        chat.flatMap(c -> c.token().get()).isPresent()),
                new AddressView(set.address() != null, now.address().orElse(null)));
    }

    private static ServerView server(Channels.Server s, Supplier<Optional<String>> password) {
        return new ServerView(
                s.host(), s.port(), s.safety(), s.user(), password.get().isPresent());
    }

    // --- mail

    private Wanted<Channels.Mail> mail(MailBody body) {
        Channels.Server server = server(body.host(), body.port(), body.safety(), body.user());
        String from = Request.needed(body.from(), "from").strip();
        try {
            if (from.length() > MOST_TEXT || !from.contains("@")) {
                throw new AddressException();
            }
            new InternetAddress(from, true).validate();
        } catch (AddressException e) {
            throw Problem.invalid("from", "That is no mail address. It looks like desk@example.org.")
                    .end();
        }
        String name = body.name() == null || body.name().isBlank()
                ? "Dastur"
                : body.name().strip();
        if (name.length() > 100 || name.chars().anyMatch(Character::isISOControl)) {
            throw Problem.invalid("name", "A sender's name is one line of at most 100 letters.")
                    .end();
        }
        Channels.Mail mail = new Channels.Mail(server, from, name);
        MailConnector.Settings known = now.mail();
        return server.user() == null
                ? new Wanted<>(mail, null, Optional::empty)
                : wanted(mail, body.password(), "password", known.mail().server(), server, known.password());
    }

    private Object setMail(Request q) {
        Wanted<Channels.Mail> wanted = mail(q.body(MailBody.class));
        Channels.Mail mail = wanted.what();
        set(
                q,
                "mail",
                wanted,
                (set, secret) ->
                        set.withMail(new Channels.Mail(mail.server().withSecret(secret), mail.from(), mail.name())),
                before -> secretOf(before.mail()));
        return null;
    }

    private Object tryMail(Request q) {
        Wanted<Channels.Mail> wanted = mail(q.body(MailBody.class));
        String to = q.person().mail();
        if (to.isBlank()) {
            throw Problem.invalid(
                            "host",
                            "You have no mail address yourself, so nothing can be sent to you. Give your account one.")
                    .end();
        }
        MailConnector connector = new MailConnector(() -> new MailConnector.Settings(wanted.what(), wanted.secret()));
        return tried(() -> {
            connector.send(
                    new MailConnector.Mail(
                            "trial." + UUID.randomUUID(),
                            to,
                            "Mail from Dastur reaches you",
                            "This was sent to try where mail goes out. Nothing needs to be done.\n"),
                    Date.from(clock.instant()));
            return "It was taken for " + to + ". Look whether it comes.";
        });
    }

    // --- the mailbox

    private Wanted<Channels.Mailbox> mailbox(MailboxBody body) {
        if (!body.used()) {
            return new Wanted<>(new Channels.Mailbox(null), null, Optional::empty);
        }
        Channels.Server server = server(body.host(), body.port(), body.safety(), body.user());
        if (server.user() == null) {
            throw Problem.invalid("user", "A mailbox belongs to somebody: as whom is it read?")
                    .end();
        }
        Optional<MailInbox.Settings> known = now.mailbox();
        return wanted(
                new Channels.Mailbox(server),
                body.password(),
                "password",
                known.map(MailInbox.Settings::server).orElse(null),
                server,
                known.map(MailInbox.Settings::password).orElse(Optional::empty));
    }

    private Object setMailbox(Request q) {
        Wanted<Channels.Mailbox> wanted = mailbox(q.body(MailboxBody.class));
        Channels.Server server = wanted.what().server();
        set(
                q,
                "mailbox",
                wanted,
                (set, secret) ->
                        set.withMailbox(new Channels.Mailbox(server == null ? null : server.withSecret(secret))),
                before -> secretOf(before.mailbox()));
        return null;
    }

    private Object tryMailbox(Request q) {
        Wanted<Channels.Mailbox> wanted = mailbox(q.body(MailboxBody.class));
        Channels.Server server = wanted.what().server();
        if (server == null) {
            throw Problem.invalid("used", "There is nothing to try where no mailbox is read.")
                    .end();
        }
        MailInbox inbox = new MailInbox(() -> Optional.of(new MailInbox.Settings(server, wanted.secret())));
        return tried(() -> {
            MailInbox.Standing standing = inbox.look();
            return "It opens. " + standing.mails() + (standing.mails() == 1 ? " mail lies" : " mails lie") + " in it, "
                    + standing.unread() + " unread. None was taken.";
        });
    }

    // --- chat

    private Wanted<Channels.Chat> chat(ChatBody body) {
        if (body.address() == null || body.address().isBlank()) {
            return new Wanted<>(new Channels.Chat(null, null), null, Optional::empty);
        }
        URI address = address(body.address());
        if (address.getScheme().equals("http") && !Channels.isHere(address.getHost())) {
            throw Problem.invalid(
                            "address",
                            "The token would go over the network in the clear. Use https, or a server on this machine.")
                    .end();
        }
        String base = address.toString();
        Optional<MatrixConnector.Settings> known = now.chat();
        Channels.Chat chat = new Channels.Chat(base, null);
        boolean same = known.filter(k -> k.base().equals(base)).isPresent();
        return keeping(
                chat,
                body.token(),
                "token",
                same,
                known.map(MatrixConnector.Settings::token).orElse(Optional::empty));
    }

    private Object setChat(Request q) {
        Wanted<Channels.Chat> wanted = chat(q.body(ChatBody.class));
        set(
                q,
                "chat",
                wanted,
                (set, secret) -> set.withChat(new Channels.Chat(wanted.what().address(), secret)),
                before -> secretOf(before.chat()));
        return null;
    }

    private Object tryChat(Request q) {
        Wanted<Channels.Chat> wanted = chat(q.body(ChatBody.class));
        String address = wanted.what().address();
        if (address == null) {
            throw Problem.invalid("address", "There is nothing to try without an address.")
                    .end();
        }
        MatrixConnector matrix =
                new MatrixConnector(() -> Optional.of(new MatrixConnector.Settings(address, wanted.secret())));
        return tried(() -> "It answers. We are " + matrix.self() + " there.");
    }

    // --- the address

    private Object setAddress(Request q) {
        String typed = q.body(AddressBody.class).address();
        if (typed == null || typed.isBlank()) {
            throw Problem.invalid("address", "Say an address, or go by the one of the start again.")
                    .end();
        }
        String address = address(typed).toString();
        change(q, set -> set.withAddress(address));
        return null;
    }

    private Object asStarted(Request q) {
        switch (q.context().pathParam("which")) {
            case "mail" ->
                forget(q, secretOf(change(q, set -> set.withMail(null)).mail()));
            case "mailbox" ->
                forget(q, secretOf(change(q, set -> set.withMailbox(null)).mailbox()));
            case "chat" ->
                forget(q, secretOf(change(q, set -> set.withChat(null)).chat()));
            case "address" -> change(q, set -> set.withAddress(null));
            default ->
                throw Problem.notFound("There are mail, mailbox, chat and address.")
                        .end();
        }
        return null;
    }

    // --- what they share

    private static Channels.Server server(
            @Nullable String host, int port, Channels.@Nullable Safety safety, @Nullable String user) {
        String named = Request.needed(host, "host").strip();
        if (!named.matches("[A-Za-z0-9._:-]{1,253}|\\[[0-9A-Fa-f:.]{2,45}]")) {
            throw Problem.invalid("host", "That is no name of a server. It looks like mail.example.org.")
                    .end();
        }
        if (port < 1 || port > 65_535) {
            throw Problem.invalid("port", "A port is a number from 1 to 65535.").end();
        }
        String as = user == null || user.isBlank() ? null : user.strip();
        if (as != null && (as.length() > MOST_TEXT || as.chars().anyMatch(Character::isISOControl))) {
            throw Problem.invalid("user", "A user has at most 300 letters.").end();
        }
        Channels.Server server = new Channels.Server(named, port, Request.needed(safety, "safety"), as);
        if (server.showsPassword()) {
            throw Problem.invalid(
                            "safety",
                            "The password would go over the network in the clear. Choose TLS, or a server on this machine.")
                    .end();
        }
        return server;
    }

    /** An address of http or https with nothing behind its path, and no slash at its end. */
    private static URI address(String typed) {
        try {
            URI address = URI.create(typed.strip().replaceAll("/+$", ""));
            if (typed.length() <= MOST_TEXT
                    && ("https".equals(address.getScheme()) || "http".equals(address.getScheme()))
                    && address.getHost() != null
                    && address.getUserInfo() == null
                    && address.getQuery() == null
                    && address.getFragment() == null) {
                return address;
            }
        } catch (IllegalArgumentException e) {
            // Said below.
        }
        throw Problem.invalid("address", "That is no address. It looks like https://chat.example.org.")
                .end();
    }

    private <T> Wanted<T> wanted(
            T what,
            @Nullable String given,
            String where,
            Channels.@Nullable Server known,
            Channels.Server server,
            Supplier<Optional<String>> kept) {
        return keeping(what, given, where, known != null && server.mayHavePasswordOf(known), kept);
    }

    private static <T> Wanted<T> keeping(
            T what, @Nullable String given, String where, boolean same, Supplier<Optional<String>> kept) {
        if (given != null && !given.isEmpty()) {
            if (given.length() > 10_000) {
                throw Problem.invalid(where, "It has at most 10,000 characters.")
                        .end();
            }
            return new Wanted<>(what, given, () -> Optional.of(given));
        }
        Optional<String> there = same ? kept.get() : Optional.empty();
        if (there.isEmpty()) {
            throw Problem.invalid(
                            where,
                            same
                                    ? "None is set yet: give it."
                                    : "Give it again: what was set for another server or user is not sent to this one.")
                    .end();
        }
        return new Wanted<>(what, there.get(), () -> there);
    }

    /** What is set, by the name of its secret. */
    private interface With {
        Channels with(Channels set, @Nullable String secret);
    }

    /**
     * Sets a part with a secret of its own, and takes away the one of before: while both settings are known somewhere, each goes with its
     * own.
     *
     * @param before the name of the secret of before
     */
    private void set(Request q, String part, Wanted<?> wanted, With with, Function<Channels, @Nullable String> before) {
        String secret = wanted.given() == null ? null : ChannelsNow.freshSecret(part);
        if (secret != null) {
            design.secrets().set(Answers.by(q, clock), secret, wanted.given());
        }
        forget(q, before.apply(change(q, set -> with.with(set, secret))));
    }

    private void forget(Request q, @Nullable String secret) {
        if (secret != null) {
            design.secrets().remove(Answers.by(q, clock), secret);
        }
    }

    private static @Nullable String secretOf(Channels.@Nullable Mail mail) {
        return mail == null ? null : mail.server().secret();
    }

    private static @Nullable String secretOf(Channels.@Nullable Mailbox mailbox) {
        return mailbox == null || mailbox.server() == null
                ? null
                : mailbox.server().secret();
    }

    private static @Nullable String secretOf(Channels.@Nullable Chat chat) {
        return chat == null ? null : chat.secret();
    }

    /** @return what was set before */
    private Channels change(Request q, UnaryOperator<Channels> change) {
        Channels before = design.setUp().channels(Answers.by(q, clock), change);
        now.changed();
        return before;
    }

    private interface Trial {
        String made() throws MailConnector.NotSent, MailInbox.NotRead, MatrixConnector.NotSent;
    }

    private Tried tried(Trial trial) {
        if (!trials.tryAcquire()) {
            throw Problem.conflict("Others are trying just now. Try again in a moment.")
                    .end();
        }
        try {
            return new Tried(true, trial.made());
        } catch (MailConnector.NotSent | MailInbox.NotRead | MatrixConnector.NotSent e) {
            return new Tried(false, String.valueOf(e.getMessage()));
        } finally {
            trials.release();
        }
    }
}
