package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.HandReading;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.OwnCalls;
import dastur.store.Records;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Semaphore;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Reading by hand on a ticket: an action that only reads is called, and what it says stands on the record, with who asked (I13). */
final class HandReadingRoutes {
    /** So many people wait for an answer at once; others are told to ask again. */
    private static final int AT_ONCE = 16;
    /** Somebody looks at the screen meanwhile. */
    private static final long LONGEST_SECONDS = 60;

    /** What can be read by hand. */
    record Readable(ActionKey key, String name, String description, List<Field> inputs) {}

    /**
     * What was said, and which entry says it.
     *
     * @param outputs by what people call them
     * @param why it could not be read; null where it could
     */
    record Said(
            String ticket,
            long seq,
            boolean read,
            Map<String, Object> outputs,
            @Nullable String why) {}

    record ReadingBody(ActionKey action, Map<String, Object> inputs) {}

    /** @param allowed whether those who work on tickets may read by it @param why it cannot be let; null where it can */
    record Allowed(boolean allowed, @Nullable String why) {}

    record AllowedBody(Boolean allowed) {}

    private final App.Design design;
    private final App.Machines machines;
    private final Records records;
    private final OnTickets on;
    private final InstantSource clock;
    private final Semaphore places = new Semaphore(AT_ONCE);

    private HandReadingRoutes(
            App.Design design, App.Machines machines, Records records, OnTickets on, InstantSource clock) {
        this.records = records;
        this.design = design;
        this.machines = machines;
        this.on = on;
        this.clock = clock;
    }

    static Stream<Route> of(
            App.Design design, App.Machines machines, Records records, OnTickets on, InstantSource clock) {
        HandReadingRoutes r = new HandReadingRoutes(design, machines, records, on, clock);
        return Stream.of(
                Route.list(
                        "/api/readings",
                        Right.WORK,
                        "What can be read by hand on a ticket",
                        Readable.class,
                        r::readable),
                Route.post(
                        "/api/tickets/{number}/readings",
                        Right.WORK,
                        "Read something by hand; what it says stands on the ticket's record",
                        ReadingBody.class,
                        Said.class,
                        r::read),
                Route.get(
                        "/api/actions/{key}/by-hand",
                        Right.SEE,
                        "Whether those who work on tickets may read by an action",
                        Allowed.class,
                        r::allowed),
                Route.put(
                        "/api/actions/{key}/by-hand",
                        Right.DESIGN,
                        "Let those who work on tickets read by an action, or no longer",
                        AllowedBody.class,
                        Allowed.class,
                        r::let));
    }

    private List<Readable> readable(Request q) {
        Set<ActionKey> allowed = machines.byHand().allowed();
        return design.workflows().actions().stream()
                .filter(a ->
                        allowed.contains(a.key()) && problem(a) == null && TermsRoutes.mayUse(q.person(), a, design))
                .map(a -> new Readable(a.key(), a.name(), a.description(), a.inputs()))
                .toList();
    }

    /** Why one cannot be let; null where it can. */
    private static @Nullable String problem(Action action) {
        if (!HandReading.fits(action)) {
            return "'" + action.name() + "' does not only read: it is for workflows, where somebody answers for it.";
        }
        if (action.withdrawn() != null) {
            return "'" + action.name() + "' was withdrawn: " + action.withdrawn();
        }
        return action.timeLimit().roughSeconds() > LONGEST_SECONDS
                ? "'" + action.name() + "' may take longer than " + LONGEST_SECONDS + " s, and somebody waits for it."
                : null;
    }

    private Action action(ActionKey key) {
        return design.workflows().action(key).orElseThrow(() -> Problem.notFound("There is no action '" + key + "'.")
                .end());
    }

    private Object allowed(Request q) {
        Action action = action(q.path("key", ActionKey::new));
        return new Allowed(machines.byHand().allowed().contains(action.key()), problem(action));
    }

    private Object let(Request q) {
        Action action = action(q.path("key", ActionKey::new));
        boolean allowed = Request.needed(q.body(AllowedBody.class).allowed(), "allowed");
        String problem = problem(action);
        if (allowed && problem != null) {
            throw Problem.conflict(problem).end();
        }
        design.setUp().handReading(Answers.by(q, clock), new HandReading(action.key(), allowed));
        return new Allowed(allowed, problem);
    }

    private Object read(Request q) {
        TicketId ticket = on.visible(q);
        ReadingBody body = q.body(ReadingBody.class);
        ActionKey key = Request.needed(body.action(), "action");
        Action action = design.workflows()
                .action(key)
                .filter(a -> machines.byHand().allowed().contains(key))
                .orElseThrow(() -> Problem.invalid("action", "Nothing called '" + key + "' can be read by hand.")
                        .end());
        String problem = problem(action);
        if (problem != null) {
            throw Problem.invalid("action", problem).end();
        }
        TermsRoutes.mayUse(q, action, design);
        Case at = on.found(q);
        TermsRoutes.mayUseOn(
                action, design, at.text("service").orElse(null), at.text("ci").orElse(null));
        Map<String, Object> inputs = new HashMap<>(Request.needed(body.inputs(), "inputs"));
        ActionInputs.check(action, inputs, design.organisation()::ci);
        Command.KeepReading kept = kept(action, inputs, called(q, action, inputs));
        Answers.Accepted entry = on.ticket(q, ticket, kept);
        // Sent once more, it was asked once more: what counts is what stands on the record.
        return records.of(ticket).stream()
                .filter(e -> e.seq() == entry.seq())
                .map(e -> Seal.open(e).event())
                .flatMap(e -> e instanceof Event.ReadByHand r ? Stream.of(r) : Stream.empty())
                .findFirst()
                .map(r -> new Said(
                        entry.ticket(), entry.seq(), r.read(), r.outputs() == null ? Map.of() : r.outputs(), r.why()))
                .orElseGet(() -> new Said(entry.ticket(), entry.seq(), kept.read(), kept.outputs(), kept.why()));
    }

    /** Called before anything is written: what does not answer holds up nobody else's work on the ticket. */
    private CallOutcome called(Request q, Action action, Map<String, Object> inputs) {
        if (!places.tryAcquire()) {
            throw Problem.tooFast("Many people wait for readings just now.").end();
        }
        try {
            return machines.calls().call(action.key(), inputs, "hand." + q.commandId(), () -> true);
        } finally {
            places.release();
        }
    }

    private static Command.KeepReading kept(Action action, Map<String, Object> inputs, CallOutcome outcome) {
        Map<String, Object> outputs = outcome instanceof CallOutcome.Done done ? done.outputs() : Map.of();
        boolean read = outcome instanceof CallOutcome.Done;
        return new Command.KeepReading(
                action.key(),
                action.name(),
                named(action.inputs(), inputs),
                read,
                named(action.outputs().stream().map(Action.Output::field).toList(), outputs),
                read ? null : OwnCalls.why(outcome));
    }

    /** By what people call them today: the record says it so for good. */
    private static Map<String, Object> named(List<Field> fields, Map<String, Object> values) {
        Map<String, Object> named = new LinkedHashMap<>();
        for (Field field : fields) {
            Object value = values.get(field.name());
            if (value != null) {
                named.put(named.containsKey(field.label()) ? field.name() : field.label(), value);
            }
        }
        return named;
    }
}
