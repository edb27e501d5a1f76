package dastur.core.run;

import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.ticket.Promised;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.function.BiConsumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What lists, desks and workers read of a case: its open runs, what people are asked and who, which signals are waited for,
 * which calls are to be made. A function of the case alone (K5), so that what stands beside a record can always be made anew
 * from it. What is told here is how it changes between two cases; a case from nothing gives all of it.
 */
public final class Standing {
    /** Endings of the ids of items that stand beside a visit's own. */
    private static final String QUESTION = "?question";

    private static final String LATE = "?late";

    /** Stands before who oversees what is offered to others (U7): {@code og:…}, {@code op:…}. */
    public static final String OVERSEES = "o";

    /** Stands before the trigger whose starts are held back; nobody has those before them one by one. */
    public static final String HOLDS = "h:";

    /** The kind of an item that is held back. */
    public static final String HELD_BACK = "held start";

    private Standing() {}

    /**
     * What lists say of a ticket, but for when it was raised and last changed.
     *
     * @param title "(redacted)" where it was taken away
     * @param target the next promise that is not kept yet; null where there is none
     * @param test whether it only tries how something goes
     */
    public record Listed(
            String title,
            String state,
            boolean ended,
            String priority,
            @Nullable String requester,
            @Nullable String service,
            @Nullable String ci,
            @Nullable String group,
            @Nullable String assignee,
            @Nullable Promised target,
            @Nullable Instant targetDue,
            boolean targetMissed,
            @Nullable TicketId under,
            boolean test) {
        public static Listed of(Case c) {
            Optional<Map.Entry<Promised, Target>> next = c.targets().entrySet().stream()
                    .filter(t -> t.getValue().metAt() == null)
                    .findFirst();
            return new Listed(
                    c.text("title").orElse("(redacted)"),
                    c.state(),
                    TicketKind.ended(c.state()),
                    c.text("priority").orElse(c.kind() == TicketKind.ROUTINE ? "" : "P4"),
                    c.text("requester").orElse(null),
                    c.text("service").orElse(null),
                    c.text("ci").orElse(null),
                    c.text("group").orElse(null),
                    c.text("assignee").orElse(null),
                    next.map(Map.Entry::getKey).orElse(null),
                    next.map(t -> t.getValue().due()).orElse(null),
                    next.filter(t -> t.getValue().missed()).isPresent(),
                    c.under(),
                    c.test() != null);
        }
    }

    /** An open run. @param stalledSince since when the first of its stalled visits is; null while none is */
    public record RunLine(
            RunId id,
            WorkflowKey workflow,
            int version,
            String name,
            PersonId owner,
            @Nullable TriggerId trigger,
            @Nullable VisitId parent,
            String status,
            Instant startedAt,
            @Nullable Instant stalledSince) {}

    /**
     * Something people are asked.
     *
     * @param id the visit's, or for what has none an id of its own
     * @param who may act on it: groups as {@code g:…}, people as {@code p:…}; after {@link #OVERSEES}, who only oversees it
     */
    public record Item(
            String id,
            String kind,
            String name,
            String workflow,
            @Nullable Instant due,
            Instant openedAt,
            @Nullable PersonId claimedBy,
            SortedSet<String> who) {
        /** The same, which on a test says that it is one: it stands among what is asked in earnest. */
        private Item on(Case c) {
            return c.test() == null
                    ? this
                    : new Item(id, kind, Tests.said(c, name), workflow, due, openedAt, claimedBy, who);
        }
    }

    /** A visit that waits for a signal. */
    public record Wait(
            VisitId visit, String signal, @Nullable String key, Instant since) {}

    /** A call that is to be made, or under way. */
    public record Call(
            VisitId visit, int attempt, ActionKey action, Action.Repeat repeat, String key, Event.Call call) {
        /** Names this attempt among all. */
        public String id() {
            return visit + "." + attempt;
        }
    }

    /** Hears what changed; null stands for what was not there, or is no longer. */
    public interface Changes {
        void run(@Nullable RunLine before, @Nullable RunLine after);

        void item(@Nullable Item before, @Nullable Item after);

        void wait(@Nullable Wait before, @Nullable Wait after);

        void call(@Nullable Call before, @Nullable Call after);
    }

    /** Tells what is different. Runs and visits that are the same objects in both are not looked into. */
    public static void changes(Case before, Case after, Changes changes) {
        boolean fields = before.fields() != after.fields();
        for (RunId id : union(before.open().keySet(), after.open().keySet())) {
            Run was = before.open().get(id);
            Run is = after.open().get(id);
            if (was != is || fields) {
                changed(was == null ? null : line(before, was), is == null ? null : line(after, is), changes::run);
                visits(before, was, after, is, fields, changes);
            }
        }
        if (before.offers() != after.offers()) {
            compare(offers(before), offers(after), Item::id, changes::item);
        }
        if (before.partners() != after.partners()) {
            compare(differences(before), differences(after), Item::id, changes::item);
        }
        if (before.late() != after.late()) {
            compare(late(before), late(after), Item::id, changes::item);
        }
    }

    private static void visits(
            Case before, @Nullable Run was, Case after, @Nullable Run is, boolean fields, Changes changes) {
        Map<VisitId, Visit> old = was == null ? Map.of() : was.open();
        Map<VisitId, Visit> now = is == null ? Map.of() : is.open();
        for (VisitId id : union(old.keySet(), now.keySet())) {
            Visit a = old.get(id);
            Visit b = now.get(id);
            // A question is put to whom the ticket's fields name.
            if (a != b || fields && b.waiting().openQuestion().isPresent()) {
                compare(items(before, was, a), items(after, is, b), Item::id, changes::item);
                changed(signal(before, a), signal(after, b), changes::wait);
                compare(call(a), call(b), Call::id, changes::call);
            }
        }
    }

    private static <T> void compare(
            List<T> before,
            List<T> after,
            java.util.function.Function<T, String> id,
            BiConsumer<@Nullable T, @Nullable T> changes) {
        Map<String, T> old = new LinkedHashMap<>();
        before.forEach(t -> old.put(id.apply(t), t));
        Map<String, T> now = new LinkedHashMap<>();
        after.forEach(t -> now.put(id.apply(t), t));
        union(old.keySet(), now.keySet()).forEach(key -> changed(old.get(key), now.get(key), changes));
    }

    private static <T> void changed(
            @Nullable T before, @Nullable T after, BiConsumer<@Nullable T, @Nullable T> changes) {
        if (!Objects.equals(before, after)) {
            changes.accept(before, after);
        }
    }

    private static <K> Set<K> union(Collection<K> some, Collection<K> others) {
        Set<K> all = new LinkedHashSet<>(some);
        all.addAll(others);
        return all;
    }

    // --- one of each

    private static RunLine line(Case c, Run run) {
        Instant stalled = run.open().values().stream()
                .map(Visit::stall)
                .filter(Objects::nonNull)
                .map(Visit.Stall::since)
                .min(Comparator.naturalOrder())
                .orElse(null);
        return new RunLine(
                run.id(),
                run.workflow(),
                run.version(),
                Tests.said(c, run.name()),
                run.owner(),
                run.trigger(),
                run.parent(),
                run.held() ? "held" : run.stalled() ? "stalled" : "under way",
                run.startedAt(),
                stalled);
    }

    private static List<Item> items(Case c, @Nullable Run run, @Nullable Visit visit) {
        if (run == null || visit == null) {
            return List.of();
        }
        List<Item> items = new ArrayList<>();
        visit.waiting()
                .asks()
                .map(a -> new Item(
                        visit.id().value(),
                        a.kind(),
                        a.name(),
                        run.name(),
                        a.due(),
                        visit.since(),
                        a.claimedBy(),
                        offered(a.to(), a.overseers())))
                .ifPresent(items::add);
        visit.waiting().openQuestion().map(q -> question(c, run, visit, q)).ifPresent(items::add);
        return items.stream().map(i -> i.on(c)).toList();
    }

    /** What somebody who is asked wants to know, for those who have the ticket. */
    private static Item question(Case c, Run run, Visit visit, Waiting.Question q) {
        SortedSet<String> who = new TreeSet<>();
        if (c.test() != null) {
            who.add("p:" + c.test().by());
            return new Item(
                    visit.id() + QUESTION, "question", "Answer a question", run.name(), null, q.at(), null, who);
        }
        c.text("group").ifPresent(g -> who.add("g:" + g));
        Stream.of("requester", "assignee").flatMap(f -> c.text(f).stream()).forEach(p -> who.add("p:" + p));
        return new Item(visit.id() + QUESTION, "question", "Answer a question", run.name(), null, q.at(), null, who);
    }

    private static SortedSet<String> offered(Assigned to, @Nullable Assigned overseers) {
        SortedSet<String> who = who(to);
        if (overseers != null) {
            who(overseers).forEach(o -> who.add(OVERSEES + o));
        }
        return who;
    }

    private static SortedSet<String> who(Assigned assigned) {
        SortedSet<String> who = who(assigned.people());
        assigned.groups().stream().map(GroupId::value).forEach(g -> who.add("g:" + g));
        return who;
    }

    private static SortedSet<String> who(List<PersonId> people) {
        SortedSet<String> who = new TreeSet<>();
        people.forEach(p -> who.add("p:" + p));
        return who;
    }

    /** A test waits for none that comes: whoever would have it in earnest would never hear of it. */
    private static @Nullable Wait signal(Case c, @Nullable Visit visit) {
        return visit == null || c.test() != null
                ? null
                : visit.waiting()
                        .awaits()
                        .map(s -> new Wait(visit.id(), s.name(), s.key(), visit.since()))
                        .orElse(null);
    }

    /** Nothing is called for a visit that waits for a person's help. */
    private static List<Call> call(@Nullable Visit visit) {
        return visit == null || visit.stall() != null
                ? List.of()
                : visit.waiting().toCall(visit.id()).map(List::of).orElse(List.of());
    }

    /** What triggers propose; where nobody is asked it only stands on the ticket. Its id is the ticket's and the trigger's. */
    private static List<Item> offers(Case c) {
        return c.offers().values().stream()
                .filter(o -> !o.asked().nobody() || o.isHeldBack())
                .map(o -> new Item(
                        c.id() + "/" + o.trigger(),
                        o.isHeldBack() ? HELD_BACK : "start",
                        "Start “" + o.name() + "”?",
                        o.name(),
                        null,
                        o.at(),
                        null,
                        o.isHeldBack() ? new TreeSet<>(Set.of(HOLDS + o.trigger())) : who(o.asked())))
                .map(i -> i.on(c))
                .toList();
    }

    /** What partners see otherwise, for whoever has the ticket. Its id is the ticket's, the partner's and the field's. */
    private static List<Item> differences(Case c) {
        return c.partners().values().stream()
                .flatMap(p -> p.differences().values().stream()
                        .filter(x -> !x.asked().nobody())
                        .map(x -> new Item(
                                c.id() + "/" + p.partner() + "/" + x.field(),
                                "difference",
                                "Say what counts: " + x.label(),
                                "",
                                null,
                                x.at(),
                                null,
                                who(x.asked()))))
                .toList();
    }

    /** A result came after its step was over and changed the world, or may have: the owner must look (D15). */
    private static List<Item> late(Case c) {
        return c.late().entrySet().stream()
                .map(e -> new Item(
                        e.getKey() + LATE,
                        "late result",
                        "Look at what came too late",
                        c.began().containsKey(e.getKey().run())
                                ? c.began().get(e.getKey().run()).name()
                                : "",
                        null,
                        e.getValue().at(),
                        null,
                        who(List.of(e.getValue().owner()))))
                .toList();
    }
}
