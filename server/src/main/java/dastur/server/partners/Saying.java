package dastur.server.partners;

import dastur.core.json.Json;
import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.TicketId;
import dastur.server.auth.Secrets;
import dastur.server.work.CommandService.Outcome;
import dastur.server.work.OwnCalls;
import dastur.store.Incoming;
import dastur.store.Partners.Known;
import dastur.store.Partners.Line;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;

/**
 * Carries what is said from one desk to the other, in its order and with who said it. What is written as a note stays here: only what was
 * said to the partner goes out.
 */
final class Saying {
    /** So often it is tried before it stands on the record that it did not come there. */
    private static final int TRIES = 5;

    /** Up to which entry all was told. @param problem why the next is tried again; null where there is none */
    record Told(long upto, @Nullable String problem) {}

    private final Exchange.Uses means;
    private final BooleanSupplier wanted;
    private final AtomicInteger lines = new AtomicInteger();

    Saying(Exchange.Uses means, BooleanSupplier wanted) {
        this.means = means;
        this.wanted = wanted;
    }

    /** Takes over what they have said. Returns the ids of their comments that stand here now. */
    List<String> heard(Partner partner, Known known, Theirs theirs, TicketId ticket) {
        List<String> heard = new ArrayList<>();
        for (Theirs.Comment comment : theirs.comments()) {
            if (isOurs(comment, ticket) || means.partners().hasComment(partner.key(), theirs.id(), comment.id())) {
                continue;
            }
            Outcome outcome = means.commands()
                    .handle(
                            ticket,
                            Comparing.id("said", partner, theirs.id(), comment.id()),
                            Comparing.by(partner),
                            new Command.HearFromPartner(partner.key(), comment.id(), comment.by(), comment.text()));
            if (outcome instanceof Outcome.Done) {
                heard.add(comment.id());
                log(partner, new Line("", now(), "in", known.id(), ticket, "said", Json.write(comment), null, null));
            }
        }
        return heard;
    }

    private static boolean isOurs(Theirs.Comment comment, TicketId ticket) {
        return comment.reference() != null && comment.reference().startsWith(ticket + "/");
    }

    /** Tells them what was said to them since, one after the other; what they have already is not said twice. */
    Told tell(Partner partner, Known known, Theirs theirs, TicketId ticket) {
        long upto = known.told();
        for (Entry entry : means.records().after(ticket, known.told())) {
            Recorded r = Seal.open(entry);
            if (r.event() instanceof Event.SaidToPartner said
                    && said.partner().equals(partner.key())
                    && said.text() != null) {
                String problem = tell(partner, known, theirs, ticket, r, said.text());
                if (problem != null) {
                    return new Told(upto, problem);
                }
            }
            upto = entry.seq();
        }
        return new Told(upto, null);
    }

    /** @return why it is tried again; null where it came there, or was given up */
    private @Nullable String tell(
            Partner partner, Known known, Theirs theirs, TicketId ticket, Recorded r, String text) {
        String reference = ticket + "/" + r.seq();
        if (theirs.comments().stream().anyMatch(c -> reference.equals(c.reference()))) {
            told(partner, theirs, ticket, r, null);
            return null;
        }
        if (partner.comment() == null) {
            told(partner, theirs, ticket, r, "Nothing is said there: no action for it is chosen.");
            return null;
        }
        Map<String, Object> inputs = Map.of(
                Partner.ID, theirs.id(), Partner.TEXT, text, Partner.BY, name(r.actor()), Partner.REFERENCE, reference);
        CallOutcome outcome = means.calls()
                .call(partner.comment(), inputs, Comparing.id("say", partner, theirs.id(), reference), wanted);
        boolean done = outcome instanceof CallOutcome.Done;
        boolean over = !done && known.failures() + 1 >= TRIES;
        String why = OwnCalls.why(outcome);
        log(
                partner,
                new Line(
                        "",
                        now(),
                        "out",
                        known.id(),
                        ticket,
                        done ? "said" : over ? "given up" : "again",
                        Json.write(inputs),
                        null,
                        done ? null : why));
        if (!done && !over) {
            return why;
        }
        told(partner, theirs, ticket, r, done ? null : why);
        return null;
    }

    private void told(Partner partner, Theirs theirs, TicketId ticket, Recorded r, @Nullable String problem) {
        means.commands()
                .handle(
                        ticket,
                        Comparing.id("told", partner, theirs.id(), ticket + "/" + r.seq()),
                        Comparing.by(partner),
                        new Command.ToldPartner(partner.key(), r.seq(), null, problem));
    }

    private String name(Actor actor) {
        return actor instanceof Actor.OfPerson p
                ? means.person()
                        .apply(p.person())
                        .map(Person::name)
                        .orElse(p.person().value())
                : "Dastur";
    }

    private Instant now() {
        return means.clock().instant();
    }

    /** A line of what became of one of their tickets. @param meant what it means here; null for nothing */
    void log(
            Partner partner,
            Known known,
            String way,
            String verdict,
            String raw,
            @Nullable String meant,
            @Nullable TicketId ticket,
            @Nullable String why) {
        Instant now = means.clock().instant();
        log(partner, new Line("", now, way, known.id(), ticket, verdict, raw, meant, why));
    }

    /** A line of what came and went; its id stands in the order of time. */
    void log(Partner partner, Line line) {
        String id = Incoming.idOf(line.at())
                + String.format("%06x", lines.incrementAndGet() & 0xffffff)
                + HexFormat.of().formatHex(Secrets.randomBytes(), 0, 4);
        means.partners()
                .log(
                        partner.key(),
                        new Line(
                                id,
                                line.at(),
                                line.way(),
                                line.theirs(),
                                line.ticket(),
                                line.verdict(),
                                line.raw(),
                                line.meant(),
                                line.why()));
    }
}
