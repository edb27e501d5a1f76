package dastur.store;

import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Which tickets to list, and in which order. What is null narrows nothing.
 *
 * @param text a number, or words of the record
 * @param open true for open ones, false for ended ones
 * @param requester who asked; also how a requester's view is kept to their own
 * @param ownOnly whether only titles are searched, as for a requester, who may not find by words of a record
 * @param raisedFrom the first moment at which they may be raised
 * @param raisedBefore the first moment that is too late
 * @param tests true for those that only try how something goes, which else are in no list
 * @param order null for {@link Order#BURNING} among open ones, else {@link Order#NEWEST}
 * @param after the last ticket of the page before; null for the first page
 */
public record TicketFilter(
        @Nullable String text,
        @Nullable Boolean open,
        @Nullable String kind,
        @Nullable String priority,
        @Nullable String state,
        @Nullable String service,
        @Nullable String group,
        @Nullable String assignee,
        @Nullable String ci,
        @Nullable String requester,
        boolean ownOnly,
        @Nullable Instant raisedFrom,
        @Nullable Instant raisedBefore,
        boolean tests,
        @Nullable Order order,
        @Nullable TicketId after) {
    /** In which order tickets stand. Each ends with what was raised last, then by number, so that it is the same every time. */
    public enum Order {
        /** What burns first: the next target due, then priority; what has no clock comes last. */
        BURNING("burning", Key.up("t.burnsAt"), Key.up("t.priority")),
        NEWEST("newest"),
        OLDEST("oldest", Key.up("t.createdAt")),
        PRIORITY("priority", Key.up("t.priority")),
        PRIORITY_LAST("priority-last", Key.down("t.priority")),
        NUMBER("number", Key.up("t.id")),
        NUMBER_LAST("number-last", Key.down("t.id")),
        TITLE("title", Key.up("lower(t.title)")),
        TITLE_LAST("title-last", Key.down("lower(t.title)")),
        STATE("state", Key.up("t.state")),
        STATE_LAST("state-last", Key.down("t.state")),
        /** Those of persons, those of groups, those of nobody. */
        WITH("with", Key.up(Key.WHOSE), Key.up("coalesce(t.assignee, t.team, '')")),
        WITH_LAST("with-last", Key.up(Key.WHOSE), Key.down("coalesce(t.assignee, t.team, '')")),
        SERVICE("service", Key.missing("t.service"), Key.up("coalesce(t.service, '')")),
        SERVICE_LAST("service-last", Key.missing("t.service"), Key.down("coalesce(t.service, '')")),
        CI("ci", Key.missing("t.ci"), Key.up("coalesce(t.ci, '')")),
        CI_LAST("ci-last", Key.missing("t.ci"), Key.down("coalesce(t.ci, '')"));

        /** As it is said to the API. */
        public final String word;

        /** What it goes by, the weightiest first. */
        final List<Key> keys;

        Order(String word, Key... keys) {
            this.word = word;
            this.keys = Stream.concat(Stream.of(keys), Stream.of(Key.down("t.createdAt"), Key.up("t.id")))
                    .toList();
        }

        public static Optional<Order> of(String word) {
            return Stream.of(values()).filter(o -> o.word.equals(word)).findFirst();
        }
    }

    /** One thing that an order goes by. @param said in the query's language; never null, so that a page can begin after it */
    record Key(String said, boolean descending) {
        static final String WHOSE = "case when t.assignee is not null then 0 when t.team is not null then 1 else 2 end";

        static Key up(String said) {
            return new Key(said, false);
        }

        static Key down(String said) {
            return new Key(said, true);
        }

        /** What has none comes last, whichever way the others go. */
        static Key missing(String said) {
            return up("case when " + said + " is null then 1 else 0 end");
        }
    }

    /** Narrows nothing until told to. */
    public static Builder all() {
        return new Builder();
    }

    /** The same list, from after one of its tickets. */
    TicketFilter after(TicketId last) {
        return new TicketFilter(
                text,
                open,
                kind,
                priority,
                state,
                service,
                group,
                assignee,
                ci,
                requester,
                ownOnly,
                raisedFrom,
                raisedBefore,
                tests,
                order,
                last);
    }

    /** Puts a filter together. */
    public static final class Builder {
        private @Nullable String text;
        private @Nullable Boolean open;
        private @Nullable String kind;
        private @Nullable String priority;
        private @Nullable String state;
        private @Nullable String service;
        private @Nullable String group;
        private @Nullable String assignee;
        private @Nullable String ci;
        private @Nullable String requester;
        private boolean ownOnly;
        private @Nullable Instant raisedFrom;
        private @Nullable Instant raisedBefore;
        private boolean tests;
        private @Nullable Order order;
        private @Nullable TicketId after;

        private Builder() {}

        public Builder text(@Nullable String value) {
            text = value;
            return this;
        }

        public Builder open(@Nullable Boolean value) {
            open = value;
            return this;
        }

        public Builder kind(@Nullable String value) {
            kind = value;
            return this;
        }

        public Builder priority(@Nullable String value) {
            priority = value;
            return this;
        }

        public Builder state(@Nullable String value) {
            state = value;
            return this;
        }

        public Builder service(@Nullable String value) {
            service = value;
            return this;
        }

        public Builder group(@Nullable String value) {
            group = value;
            return this;
        }

        public Builder assignee(@Nullable String value) {
            assignee = value;
            return this;
        }

        public Builder ci(@Nullable String value) {
            ci = value;
            return this;
        }

        public Builder requester(@Nullable String value) {
            requester = value;
            return this;
        }

        public Builder ownOnly(boolean value) {
            ownOnly = value;
            return this;
        }

        public Builder raisedFrom(@Nullable Instant value) {
            raisedFrom = value;
            return this;
        }

        public Builder raisedBefore(@Nullable Instant value) {
            raisedBefore = value;
            return this;
        }

        public Builder tests(boolean value) {
            tests = value;
            return this;
        }

        public Builder order(@Nullable Order value) {
            order = value;
            return this;
        }

        public Builder after(@Nullable TicketId value) {
            after = value;
            return this;
        }

        public TicketFilter build() {
            return new TicketFilter(
                    text,
                    open,
                    kind,
                    priority,
                    state,
                    service,
                    group,
                    assignee,
                    ci,
                    requester,
                    ownOnly,
                    raisedFrom,
                    raisedBefore,
                    tests,
                    order,
                    after);
        }
    }

    Order orderOrUsual() {
        return order != null ? order : Boolean.TRUE.equals(open) ? Order.BURNING : Order.NEWEST;
    }
}
