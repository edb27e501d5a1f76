package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonIgnore;
import java.util.Locale;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * By what people are told and heard (R13), as set on screen. What is null here is as named where the application was started.
 *
 * @param mail where mail goes out
 * @param mailbox where people answer mails
 * @param chat the chat server
 * @param address where people reach the application, for links in what is sent
 */
public record Channels(
        @Nullable Mail mail,
        @Nullable Mailbox mailbox,
        @Nullable Chat chat,
        @Nullable String address) {
    public static final Channels AS_STARTED = new Channels(null, null, null, null);

    /** How a line to a server is kept from others' eyes. */
    public enum Safety {
        /** Speaks TLS from the first byte (RFC 8314). */
        TLS,
        /** Begins in the clear and turns to TLS before anything is said (RFC 3207, RFC 9051); one that cannot is not spoken to. */
        STARTTLS,
        NONE;

        private boolean hides() {
            return this != NONE;
        }
    }

    /**
     * A mail server.
     *
     * @param user as whom to sign in; null for nobody
     * @param secret the name of the secret that was set for this server and user, and is used with no other; null where there is none, or
     *     it is named elsewhere
     */
    public record Server(
            String host,
            int port,
            Safety safety,
            @Nullable String user,
            @Nullable String secret) {
        public Server(String host, int port, Safety safety, @Nullable String user) {
            this(host, port, safety, user, null);
        }

        public Server {
            Objects.requireNonNull(safety);
            if (host.isBlank() || port < 1 || port > 65_535) {
                throw new IllegalArgumentException("A mail server has a name and a port from 1 to 65535.");
            }
        }

        public Server withSecret(@Nullable String secret) {
            return new Server(host, port, safety, user, secret);
        }

        /** Whether a password would go over a network where others can read it. */
        @JsonIgnore
        public boolean showsPassword() {
            return user != null && !safety.hides() && !isHere(host);
        }

        /**
         * Whether a password that was set for another one may go to this one: the same server and user, and no more open than before.
         * Otherwise whoever may set the server could have the password sent to one of their own.
         */
        public boolean mayHavePasswordOf(Server other) {
            return host.equalsIgnoreCase(other.host)
                    && port == other.port
                    && Objects.equals(user, other.user)
                    && (safety.hides() || !other.safety.hides());
        }
    }

    /** Where mail goes out (RFC 5321). @param from the sender's address; @param name and what stands before it */
    public record Mail(Server server, String from, String name) {}

    /** The mailbox of the sender (RFC 9051). @param server null where none is read */
    public record Mailbox(@Nullable Server server) {}

    /** A server that speaks the Matrix client-server API. @param address null where there is none @param secret the name of its token's secret */
    public record Chat(@Nullable String address, @Nullable String secret) {}

    public Channels withMail(@Nullable Mail mail) {
        return new Channels(mail, mailbox, chat, address);
    }

    public Channels withMailbox(@Nullable Mailbox mailbox) {
        return new Channels(mail, mailbox, chat, address);
    }

    public Channels withChat(@Nullable Chat chat) {
        return new Channels(mail, mailbox, chat, address);
    }

    public Channels withAddress(@Nullable String address) {
        return new Channels(mail, mailbox, chat, address);
    }

    /** Whether a server is this machine: what goes there crosses no network. */
    public static boolean isHere(String host) {
        return Set.of("localhost", "127.0.0.1", "::1", "[::1]").contains(host.toLowerCase(Locale.ROOT));
    }
}
