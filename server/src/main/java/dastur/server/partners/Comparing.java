package dastur.server.partners;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.partner.Partner;
import dastur.core.partner.Shared;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import dastur.core.partner.ThreeWay.Memory;
import dastur.core.partner.Verdict;
import dastur.core.people.Actor;
import dastur.core.run.AtPartner;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.auth.Secrets;
import dastur.server.work.CommandService.Outcome;
import dastur.server.work.OwnCalls;
import dastur.store.Partners.Known;
import dastur.store.Partners.State;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;

/**
 * Compares one of their tickets with ours and does what follows. Each step can be cut off and done again: commands are known by their
 * ids, calls by their keys, and what was sent is recognised when it comes back.
 */
final class Comparing {
    /** So often ours is sent before their no is believed: it may be that they are only away. */
    private static final int TRIES = 3;

    private static final Duration UNSTEADY_WITHIN = Duration.ofMinutes(10);
    private static final int UNSTEADY = 20;
    private static final Duration SHOWN_BY = ThreeWay.SHOWS_WITHIN.plusSeconds(10);

    private final Exchange.Uses means;
    private final BooleanSupplier wanted;
    private final Meeting meeting;
    private final Saying saying;
    private final LastSet lastSet;

    Comparing(Exchange.Uses means, Saying saying, BooleanSupplier wanted) {
        this.means = means;
        this.wanted = wanted;
        this.saying = saying;
        this.meeting = new Meeting(means, saying);
        this.lastSet = new LastSet(means.records());
    }

    /** @param looked when their desk was last read @param ahead how far their clock is ahead of ours; null where nobody can tell */
    void compare(Partner partner, Known known, Instant looked, @Nullable Duration ahead) {
        Theirs theirs;
        try {
            theirs = Theirs.read(partner, Json.parse(known.body()));
        } catch (Theirs.Unreadable e) {
            means.partners().compared(known.settled(now(), e.why()));
            return;
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("what was kept is no JSON", e);
        }
        switch (known.state()) {
            case NEW, TOLD -> meeting.meet(partner, known, theirs);
            case FOLLOWED -> follow(partner, known, theirs, looked, ahead);
            case OVER -> means.partners().compared(known.settled(now(), known.problem()));
        }
    }

    // --- one that is followed

    private void follow(Partner partner, Known known, Theirs theirs, Instant looked, @Nullable Duration ahead) {
        TicketId ticket = Objects.requireNonNull(known.ticket());
        Optional<Case> found = means.tickets().find(ticket);
        AtPartner at = found.map(c -> c.partners().get(partner.key().value())).orElse(null);
        if (found.isEmpty() || at == null || at.over() || !at.id().equals(theirs.id())) {
            means.partners()
                    .compared(known.with(
                            State.OVER,
                            ticket,
                            known.memory(),
                            known.ours(),
                            known.told(),
                            false,
                            now(),
                            0,
                            "It is not followed any more."));
            return;
        }
        Case ours = found.get();
        if (unsteady(partner, known, ticket)) {
            return;
        }
        List<String> heard = saying.heard(partner, known, theirs, ticket);
        Memory memory = remembered(known, at).heard(partner, theirs, ahead, looked);
        ThreeWay threeWay = new ThreeWay(means.fields().get());
        // Of what has ended here nothing is taken over any more: ours is told.
        boolean ended = TicketKind.ended(ours.state());
        Partner led = ended ? partner.led(Shared.Leads.US) : partner;
        List<Verdict> verdicts = threeWay.judge(
                led, memory, ThreeWay.ours(partner, ours.fields()), theirs, looked, later(memory, ticket));
        Sorted sorted = Sorted.of(threeWay, verdicts, memory);
        Memory taken = take(partner, known, theirs, ours, at, sorted);
        Sent sent = send(partner, known, theirs, ticket, sorted, taken);
        Saying.Told told = saying.tell(partner, known, theirs, ticket);
        String problem = sent.problem() != null ? sent.problem() : told.problem();
        boolean again = problem != null;
        // What was sent is looked for once more, though nothing else may change there.
        boolean shows = sent.memory().sent().isEmpty();
        int failures = again ? known.failures() + 1 : 0;
        Instant next = again ? Exchange.pause(now(), failures) : sent.refused() || shows ? now() : now().plus(SHOWN_BY);
        if (again) {
            // It may have come there all the same: before anything goes out again, theirs is read anew (D13b).
            means.partners().lookBy(partner.key(), next);
        }
        means.partners()
                .compared(known.with(
                        State.FOLLOWED,
                        ticket,
                        sent.memory(),
                        ours.seq(),
                        told.upto(),
                        again || sent.refused() || !shows,
                        next,
                        failures,
                        problem));
        if (!heard.isEmpty()) {
            means.partners().comments(partner.key(), theirs.id(), heard);
        }
    }

    /** A field that both sides change and change again is a quarrel of two machines. */
    private boolean unsteady(Partner partner, Known known, TicketId ticket) {
        if (means.partners().changes(partner.key(), known.id(), now().minus(UNSTEADY_WITHIN)) <= UNSTEADY) {
            return false;
        }
        String why = "There were more than " + UNSTEADY + " changes within ten minutes on both sides together.";
        means.commands()
                .handle(
                        ticket,
                        id("leave", partner, known.id(), String.valueOf(known.ours())),
                        by(partner),
                        new Command.LeavePartner(partner.key(), why));
        saying.log(partner, known, "in", "left", "", null, ticket, why);
        means.partners()
                .compared(known.with(
                        State.OVER, ticket, known.memory(), known.ours(), known.told(), false, now(), 0, why));
        return true;
    }

    /** Our record tells when ours came to be what it is; it is only read where that decides. */
    private ThreeWay.Later later(Memory memory, TicketId ticket) {
        return field -> Optional.ofNullable(memory.heard().get(field))
                .flatMap(theirs ->
                        ThreeWay.later(theirs.at(), lastSet.of(ticket, field).orElse(null)));
    }

    /** What a person has said since counts from now. */
    private static Memory remembered(Known known, AtPartner at) {
        Memory memory = known.memory();
        for (Map.Entry<String, AtPartner.Kept> e : at.kept().entrySet()) {
            if (e.getValue().seq() > known.ours() && e.getValue().word() != null) {
                memory = memory.insisted(e.getKey(), e.getValue().word());
            }
        }
        return memory;
    }

    /** Verdicts by what is to be done. */
    record Sorted(
            Map<String, Command.Taken> takes,
            List<Command.Disagreement> differences,
            List<Verdict.Sends> sends,
            Memory memory) {
        static Sorted of(ThreeWay threeWay, List<Verdict> verdicts, Memory before) {
            Map<String, Command.Taken> takes = new TreeMap<>();
            List<Command.Disagreement> differences = new java.util.ArrayList<>();
            List<Verdict.Sends> sends = new java.util.ArrayList<>();
            Memory memory = before;
            for (Verdict verdict : verdicts) {
                switch (verdict) {
                    case Verdict.Rests v -> {}
                    case Verdict.Agrees v -> memory = memory.agreed(v.field(), v.value());
                    case Verdict.Takes v ->
                        threeWay.value(v.field(), v.value())
                                .ifPresent(value -> takes.put(v.field(), new Command.Taken(v.word(), value)));
                    case Verdict.Sends v -> sends.add(v);
                    case Verdict.Asks v ->
                        differences.add(new Command.Disagreement(
                                v.field(),
                                v.ours(),
                                v.word(),
                                v.theirs() == null
                                        ? null
                                        : threeWay.value(v.field(), v.theirs()).orElse(null),
                                v.why()));
                }
            }
            return new Sorted(takes, differences, sends, memory);
        }
    }

    /** @return what both agree on then: what was taken over is so at once, since what it sets off may change it again */
    private Memory take(Partner partner, Known known, Theirs theirs, Case ours, AtPartner at, Sorted sorted) {
        Memory memory = sorted.memory();
        if (TicketKind.ended(ours.state()) && !sorted.takes().isEmpty()) {
            saying.log(partner, known, "in", "refused", known.body(), null, ours.id(), "It has ended here.");
            return memory;
        }
        if (sorted.takes().isEmpty()
                && sorted.differences().isEmpty()
                && at.differences().isEmpty()) {
            return memory;
        }
        Outcome outcome = means.commands()
                .handleRepeatable(
                        ours.id(),
                        id("hear", partner, theirs.id(), known.hash() + ours.seq()),
                        by(partner),
                        new Command.HearPartner(partner.key(), sorted.takes(), sorted.differences()));
        String why = outcome instanceof Outcome.Refused r ? r.refusal().message() : null;
        Map<String, Object> meant = new TreeMap<>();
        for (Map.Entry<String, Command.Taken> e : sorted.takes().entrySet()) {
            boolean asked = why != null || isAsked(partner, ours.id(), e.getKey());
            if (!asked) {
                meant.put(e.getKey(), e.getValue().value());
                memory = memory.agreed(e.getKey(), e.getValue().value().toString());
            }
        }
        if (!meant.isEmpty() || why != null) {
            saying.log(
                    partner,
                    known,
                    "in",
                    why == null ? "taken" : "refused",
                    known.body(),
                    Json.write(meant),
                    ours.id(),
                    why);
        } else if (sorted.differences().stream().anyMatch(d -> !stands(at, d))) {
            saying.log(partner, known, "in", "asked", known.body(), null, ours.id(), null);
        }
        return memory;
    }

    /** Whether it was asked before. */
    private static boolean stands(AtPartner at, Command.Disagreement d) {
        AtPartner.Difference asked = at.differences().get(d.field());
        return asked != null
                && Objects.equals(asked.ours(), d.ours())
                && Objects.equals(asked.word(), d.word())
                && asked.why().equals(d.why());
    }

    private boolean isAsked(Partner partner, TicketId ticket, String field) {
        return means
                .tickets()
                .find(ticket)
                .map(c -> c.partners().get(partner.key().value()))
                .stream()
                .anyMatch(p -> p.differences().containsKey(field));
    }

    /** @param refused whether they do not want it: then a person is asked at once @param problem why it is tried again */
    private record Sent(
            Memory memory, boolean refused, @Nullable String problem) {}

    private Sent send(Partner partner, Known known, Theirs theirs, TicketId ticket, Sorted sorted, Memory agreed) {
        Memory memory = agreed;
        if (sorted.sends().isEmpty()) {
            return new Sent(memory, false, null);
        }
        Map<String, Object> inputs = new LinkedHashMap<>();
        Map<String, String> words = new TreeMap<>();
        for (Verdict.Sends s : sorted.sends()) {
            inputs.put(s.as(), s.word());
            words.put(s.field(), s.word());
        }
        inputs.put(Partner.ID, theirs.id());
        String key = id("change", partner, theirs.id(), Json.write(words) + known.hash());
        CallOutcome outcome = means.calls().call(partner.change(), inputs, key, wanted);
        boolean done = outcome instanceof CallOutcome.Done;
        boolean no = outcome instanceof CallOutcome.Failed && known.failures() + 1 >= TRIES;
        String why = OwnCalls.why(outcome);
        saying.log(
                partner,
                known,
                "out",
                done ? "sent" : no ? "refused" : "again",
                Json.write(inputs),
                null,
                ticket,
                done ? null : why);
        if (!done && !no) {
            return new Sent(memory, false, why);
        }
        means.commands()
                .handle(
                        ticket,
                        id("sent", partner, theirs.id(), key + (done ? "" : " no")),
                        by(partner),
                        new Command.ToldPartner(partner.key(), null, words, done ? null : why));
        for (Verdict.Sends s : sorted.sends()) {
            memory = done
                    ? memory.sent(s.field(), s.value(), theirs.version(), now())
                    : memory.refused(s.field(), s.value(), why);
        }
        return new Sent(memory, no, null);
    }

    // --- rows

    static Actor by(Partner partner) {
        return new Actor.Outside(partner.key().value());
    }

    /** An id that is the same whenever the same is done again. */
    static String id(String what, Partner partner, String theirs, String more) {
        return "partner." + what + "." + Secrets.hashToken(partner.key() + "\n" + theirs + "\n" + more);
    }

    private Instant now() {
        return means.clock().instant();
    }

    /** It is tried again after a pause. */
    Known later(Known k, String problem) {
        int failures = k.failures() + 1;
        return k.with(
                k.state(),
                k.ticket(),
                k.memory(),
                k.ours(),
                k.told(),
                true,
                Exchange.pause(now(), failures),
                failures,
                problem);
    }
}
