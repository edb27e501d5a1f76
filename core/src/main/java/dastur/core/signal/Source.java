package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import java.util.List;
import java.util.Locale;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * A connected sender.
 *
 * @param open whether it is listened to; one that is shut refuses what comes
 * @param proof how its senders show who they are
 * @param otherwise what becomes of a fault that no trigger takes up
 * @param neverQuiet whether its faults are told in planned work too (I21)
 * @param group who gets the incidents that it opens by itself; null for the owner of the service
 * @param from where its senders send from, where that is all they show; at most 50
 * @param silentAfterMinutes after how long without anything its silence is told, 5 minutes to 14 days; null for never
 * @param post to which address mail comes, and from whom; only where that is how it comes
 */
public record Source(
        SourceKey key,
        String name,
        boolean open,
        Proof proof,
        Mapping mapping,
        Otherwise otherwise,
        boolean neverQuiet,
        @Nullable String group,
        List<Network> from,
        @Nullable Integer silentAfterMinutes,
        @Nullable Post post) {
    /** One whose senders show who they are. */
    public Source(
            SourceKey key,
            String name,
            boolean open,
            Proof proof,
            Mapping mapping,
            Otherwise otherwise,
            boolean neverQuiet,
            @Nullable String group) {
        this(key, name, open, proof, mapping, otherwise, neverQuiet, group, List.of(), null, null);
    }

    private static final int MOST_NETWORKS = 50;

    public Source {
        if (name == null || name.isBlank() || name.length() > 200) {
            throw new IllegalArgumentException("A source has a name of at most 200 characters.");
        }
        from = from == null ? List.of() : List.copyOf(from);
        if (from.size() > MOST_NETWORKS) {
            throw new IllegalArgumentException("A source has at most " + MOST_NETWORKS + " addresses to be sent from.");
        }
        Silence.check(silentAfterMinutes);
    }

    /**
     * Mail of machines.
     *
     * @param to the address, of a mailbox that is read, that belongs to this source alone
     * @param senders whose mail is taken: an address, or all of a domain as {@code @kestrel.example}; at most 50
     */
    public record Post(String to, List<String> senders) {
        private static final int MOST = 50;
        private static final Pattern SENDER = Pattern.compile("[^\\s@,;<>]{0,64}@[^\\s@,;<>]{1,190}");

        public Post {
            to = address(to);
            if (to.startsWith("@")) {
                throw new IllegalArgumentException("'" + to + "' is no address that mail can be sent to.");
            }
            senders = senders == null
                    ? List.of()
                    : senders.stream().map(Post::address).distinct().toList();
            if (senders.size() > MOST) {
                throw new IllegalArgumentException("A source takes mail of at most " + MOST + " senders.");
            }
        }

        private static String address(@Nullable String text) {
            String tidy = text == null ? "" : text.strip().toLowerCase(Locale.ROOT);
            if (!SENDER.matcher(tidy).matches()) {
                throw new IllegalArgumentException("'" + Texts.clip(tidy, 60) + "' is no address of mail.");
            }
            return tidy;
        }

        /** Whether it takes what this address sends. */
        public boolean takes(String sender) {
            String tidy = sender.toLowerCase(Locale.ROOT);
            return senders.stream().anyMatch(s -> s.startsWith("@") ? tidy.endsWith(s) : tidy.equals(s));
        }
    }

    /** The same with another mapping. */
    public Source with(Mapping other) {
        return new Source(key, name, open, proof, other, otherwise, neverQuiet, group, from, silentAfterMinutes, post);
    }

    /** The same, whose silence is told after so long. @param minutes null for never */
    public Source silentAfter(@Nullable Integer minutes) {
        return new Source(key, name, open, proof, mapping, otherwise, neverQuiet, group, from, minutes, post);
    }

    /** How senders show who they are. */
    public enum Proof {
        /** A token in the Authorization header (RFC 6750). */
        TOKEN("token"),
        /** HMAC-SHA-256 over id, time and body, as Standard Webhooks describes it. */
        SIGNATURE("signature"),
        /**
         * Nothing but the address that they send from: lines of syslog (RFC 5424). Whoever can send from there can say anything, so
         * that what comes starts nothing by itself (I2).
         */
        ADDRESS("address"),
        /** Nothing but the address that a mail says it is from, which anybody can write: as with syslog, nothing starts by itself. */
        MAIL("mail");

        private final String word;

        Proof(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }

        /** Whether a sender shows that it is who it says. */
        public boolean proves() {
            return this == TOKEN || this == SIGNATURE;
        }
    }

    /** What becomes of a fault that no trigger takes up (I5). */
    public enum Otherwise {
        KEPT("kept"),
        INCIDENT("incident");

        private final String word;

        Otherwise(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }
}
