package dastur.core.partner;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketKind;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Compares what both sides say with what they last agreed on (I16): one that alone has changed is followed; where both have, the leader
 * counts, or a person says. An echo of our own change is no change. A clock counts only for what was sent and does not show.
 */
public final class ThreeWay {
    /**
     * What is remembered of the two sides, as our texts, by our names of the fields.
     *
     * @param base what they last agreed on
     * @param sent what was sent and does not show there yet
     * @param insisted their words against which a person holds to ours
     * @param refused what of ours they did not take, with their answer
     * @param heard their words, with when they came to say them, of fields that whoever is later leads
     */
    public record Memory(
            Map<String, String> base,
            Map<String, Sent> sent,
            Map<String, String> insisted,
            Map<String, Refused> refused,
            Map<String, Heard> heard) {
        public static final Memory NONE = new Memory(Map.of(), Map.of(), Map.of(), Map.of(), Map.of());

        public Memory {
            base = base == null ? Map.of() : Map.copyOf(base);
            sent = sent == null ? Map.of() : Map.copyOf(sent);
            insisted = insisted == null ? Map.of() : Map.copyOf(insisted);
            refused = refused == null ? Map.of() : Map.copyOf(refused);
            heard = heard == null ? Map.of() : Map.copyOf(heard);
        }

        /** With what both sides agree on. */
        public Memory agreed(String field, String value) {
            return new Memory(
                    with(base, field, value),
                    with(sent, field, null),
                    with(insisted, field, null),
                    with(refused, field, null),
                    heard);
        }

        public Memory sent(String field, String value, String version, Instant at) {
            return new Memory(
                    base, with(sent, field, new Sent(value, version, at)), insisted, with(refused, field, null), heard);
        }

        public Memory insisted(String field, String word) {
            return new Memory(
                    base, with(sent, field, null), with(insisted, field, word), with(refused, field, null), heard);
        }

        public Memory refused(String field, String value, String why) {
            return new Memory(base, sent, insisted, with(refused, field, new Refused(value, why)), heard);
        }

        /**
         * With what they say of each field that whoever is later leads, and since when. A word that was heard before keeps its time:
         * something else may have changed there since.
         *
         * @param ahead how far their clock is ahead of ours; null where that is not known
         * @param looked when they were last read; what they say to have changed after that is not believed
         */
        public Memory heard(Partner partner, Theirs theirs, @Nullable Duration ahead, Instant looked) {
            Map<String, Heard> now = new LinkedHashMap<>(heard);
            for (Shared s : partner.shared()) {
                String word = theirs.says().get(s.ours());
                Heard before = now.get(s.ours());
                if (s.leads() == Shared.Leads.LATER
                        && word != null
                        && (before == null || !before.word().equals(word))) {
                    now.put(s.ours(), new Heard(word, at(theirs, ahead, looked)));
                }
            }
            return new Memory(base, sent, insisted, refused, now);
        }

        private static @Nullable Instant at(Theirs theirs, @Nullable Duration ahead, Instant looked) {
            Instant at = theirs.changed() == null || ahead == null
                    ? null
                    : theirs.changed().minus(ahead);
            return at == null || at.isAfter(looked.plus(TOO_CLOSE)) ? null : at;
        }

        private static <V> Map<String, V> with(Map<String, V> map, String field, @Nullable V value) {
            Map<String, V> other = new LinkedHashMap<>(map);
            if (value == null) {
                other.remove(field);
            } else {
                other.put(field, value);
            }
            return other;
        }
    }

    /** What of ours was sent. @param version what theirs was when it was @param at when, by our clock */
    public record Sent(String value, String version, Instant at) {}

    /** What of ours they did not take. @param why what they answered */
    public record Refused(String value, String why) {}

    /** A word of theirs. @param at since when they say it, by our clock; null where nobody can tell */
    public record Heard(String word, @Nullable Instant at) {}

    /** Who was later, where both have said something of a field. */
    @FunctionalInterface
    public interface Later {
        Later UNKNOWN = field -> Optional.empty();

        /** Whether it was they; empty where nobody can tell. */
        Optional<Boolean> theirs(String field);
    }

    /** Nearer than that nobody can tell which of two was later: clocks differ, and what is said takes a while to arrive. */
    public static final Duration TOO_CLOSE = Duration.ofSeconds(5);

    /** Whether theirs was later than ours; empty where it is too close, or one of both is not known. */
    public static Optional<Boolean> later(@Nullable Instant theirs, @Nullable Instant ours) {
        return theirs == null
                        || ours == null
                        || Duration.between(theirs, ours).abs().compareTo(TOO_CLOSE) <= 0
                ? Optional.empty()
                : Optional.of(theirs.isAfter(ours));
    }

    /** So long what was sent may take to show there. */
    public static final Duration SHOWS_WITHIN = Duration.ofMinutes(2);

    private final FieldCatalogue fields;

    public ThreeWay(FieldCatalogue fields) {
        this.fields = fields;
    }

    /** A value of ours as a text, so that 2 and "2" are the same. */
    private static @Nullable String text(@Nullable Object value) {
        return value == null || value.toString().isBlank() ? null : value.toString();
    }

    /** What our values are as texts, of shared fields only. */
    public static Map<String, String> ours(Partner partner, Map<String, Object> ticket) {
        Map<String, String> ours = new LinkedHashMap<>();
        for (Shared s : partner.shared()) {
            String text = text(ticket.get(s.ours()));
            if (text != null) {
                ours.put(s.ours(), text);
            }
        }
        return ours;
    }

    /** What a word of theirs means here, as our text; empty where it means nothing. */
    public Optional<String> meaning(Shared shared, String word) {
        return shared.toOurs(word).flatMap(w -> value(shared.ours(), w)).map(Object::toString);
    }

    /** A text as a value of our field; empty where it is none. */
    public Optional<Object> value(String name, String text) {
        Optional<Field> field = fields.ticketField(name);
        if (field.isEmpty()) {
            return Optional.empty();
        }
        return field.get().type().read(text).filter(v -> field.get()
                .problemWith(v)
                .isEmpty());
    }

    /** What all their words mean here, without those that mean nothing. */
    public Map<String, String> meant(Partner partner, Theirs theirs) {
        Map<String, String> meant = new LinkedHashMap<>();
        for (Shared s : partner.shared()) {
            Optional.ofNullable(theirs.says().get(s.ours()))
                    .flatMap(w -> meaning(s, w))
                    .ifPresent(v -> meant.put(s.ours(), v));
        }
        return meant;
    }

    /** Whether theirs has ended; empty where they do not say, or in a word that means nothing here. */
    public Optional<Boolean> ended(Partner partner, Theirs theirs) {
        return Optional.ofNullable(meant(partner, theirs).get("state")).map(TicketKind::ended);
    }

    /** Their words that mean nothing here, by our field. */
    public Map<String, String> unknown(Partner partner, Theirs theirs) {
        Map<String, String> meant = meant(partner, theirs);
        Map<String, String> unknown = new LinkedHashMap<>(theirs.says());
        unknown.keySet().removeAll(meant.keySet());
        return unknown;
    }

    /**
     * What follows for each shared field, in their order.
     *
     * @param looked when their desk was last read, by our clock
     * @param later who was later; only asked where that decides
     */
    public List<Verdict> judge(
            Partner partner, Memory memory, Map<String, String> ours, Theirs theirs, Instant looked, Later later) {
        List<Verdict> verdicts = new ArrayList<>();
        for (Shared s : partner.shared()) {
            verdicts.add(judge(s, memory, ours.get(s.ours()), theirs, looked, later));
        }
        return verdicts;
    }

    private Verdict judge(Shared s, Memory memory, @Nullable String our, Theirs theirs, Instant looked, Later later) {
        String word = theirs.says().get(s.ours());
        String base = memory.base().get(s.ours());
        if (word == null) {
            // They say nothing of it, which is not that it is nothing.
            return our != null && !our.equals(base)
                    ? new Sending(s, memory, theirs.version(), looked, later, "", null).of(our)
                    : new Verdict.Rests(s.ours());
        }
        boolean insists = word.equals(memory.insisted().get(s.ours()));
        String their = meaning(s, word).orElse(null);
        Sending sending = new Sending(s, memory, theirs.version(), looked, later, word, their);
        if (their == null) {
            return insists && our != null
                    ? sending.of(our)
                    : new Verdict.Asks(s.ours(), our, word, null, "Their word '" + word + "' means nothing here.");
        }
        // Several words of ours may be one of theirs: what we would say there is what stands there.
        boolean same = our != null
                && (their.equals(our) || s.toTheirs(our).filter(word::equals).isPresent());
        if (same) {
            boolean known = our.equals(base)
                    && !memory.sent().containsKey(s.ours())
                    && !memory.refused().containsKey(s.ours());
            return known ? new Verdict.Rests(s.ours()) : new Verdict.Agrees(s.ours(), our);
        }
        boolean stands = base != null
                && (their.equals(base) || s.toTheirs(base).filter(word::equals).isPresent());
        boolean theyChanged = !stands && !insists;
        boolean weChanged = !Objects.equals(our, base) || insists;
        if (!weChanged) {
            return new Verdict.Takes(s.ours(), their, word);
        }
        if (!theyChanged) {
            // What is taken away here is not taken away there: they may say nothing of less than we know.
            return our == null ? new Verdict.Rests(s.ours()) : sending.of(our);
        }
        return our == null && s.leads() == Shared.Leads.US
                ? new Verdict.Takes(s.ours(), their, word)
                : sending.led(our, "Both have said something of it.");
    }

    /**
     * Ours, where it is to go there.
     *
     * @param word what they say; blank for nothing
     * @param their what that means here
     */
    private record Sending(
            Shared s,
            Memory memory,
            String version,
            Instant looked,
            Later later,
            String word,
            @Nullable String their) {
        Verdict of(String our) {
            if (s.as() == null) {
                return new Verdict.Rests(s.ours());
            }
            Sent sent = memory.sent().get(s.ours());
            if (sent != null && sent.value().equals(our)) {
                // Once theirs has come anew it would show, had they taken and kept it; and so it would after a while.
                return sent.version().equals(version)
                                && looked.isBefore(sent.at().plus(SHOWS_WITHIN))
                        ? new Verdict.Rests(s.ours())
                        : notKept(our, "They did not keep what was sent.");
            }
            Refused refused = memory.refused().get(s.ours());
            if (refused != null && refused.value().equals(our)) {
                return asks(our, "They did not take ours: " + refused.why());
            }
            return goes(our);
        }

        private Verdict goes(String our) {
            return s.toTheirs(our)
                    .<Verdict>map(w -> new Verdict.Sends(s.ours(), our, String.valueOf(s.as()), w))
                    .orElseGet(() -> asks(our, "They have no word for '" + our + "'."));
        }

        /** Whoever is later is not sent the same again and again: they may have had their reason. */
        private Verdict notKept(String our, String why) {
            return s.leads() == Shared.Leads.LATER && !later.theirs(s.ours()).orElse(false)
                    ? asks(our, why)
                    : led(our, why);
        }

        /** What the leader says, where both say something else. */
        Verdict led(@Nullable String our, String why) {
            return switch (s.leads()) {
                case THEM -> theirs(our, why);
                case US -> ours(our, why);
                case LATER ->
                    later.theirs(s.ours())
                            .map(they -> they ? theirs(our, why) : ours(our, why))
                            .orElseGet(() -> asks(our, why + " Nobody can tell who was later."));
                case PERSON -> asks(our, why);
            };
        }

        private Verdict theirs(@Nullable String our, String why) {
            return their == null ? asks(our, why) : new Verdict.Takes(s.ours(), their, word);
        }

        private Verdict ours(@Nullable String our, String why) {
            return our == null || s.as() == null ? asks(our, why) : goes(our);
        }

        private Verdict asks(@Nullable String our, String why) {
            return new Verdict.Asks(s.ours(), our, word, their, why);
        }
    }
}
