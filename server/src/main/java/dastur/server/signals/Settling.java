package dastur.server.signals;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.start.Routed;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Matters;
import dastur.store.Settlement;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Carries out what was decided about signals: each as one write with the change of the ticket that follows, or none at all. */
final class Settling {
    private static final Logger LOG = LoggerFactory.getLogger(Settling.class);

    private final CommandService commands;
    private final Matters matters;
    private final Folding folding;

    Settling(CommandService commands, Matters matters, Folding folding) {
        this.commands = commands;
        this.matters = matters;
        this.folding = folding;
    }

    /**
     * Carries out what was decided about a signal.
     *
     * @param read the matter as it was read; null for what is no matter
     * @param after the matter as the signal leaves it; null with {@code read}
     */
    void decided(
            Signal signal,
            Source source,
            Routed routed,
            Matters.@Nullable Held read,
            @Nullable Matter after,
            Instant now) {
        String why = Json.write(new Why(routed.told(), routed.looks()));
        switch (routed.way()) {
            case Routed.Way.Joins joins -> {
                Matter then = after == null
                        ? null
                        : after.onItsOwn().turnEntered(signal.cameAt()).judged();
                Settlement s =
                        new Settlement(List.of(routed(signal, "joined", routed.turn(), why)), read, then, false, null);
                Event.SignalsHeard heard = heard(signal, routed.turn(), after);
                hear(
                        joins.ticket(),
                        "joined." + joins.ticket() + "." + signal.id(),
                        signal.source(),
                        heard,
                        routed,
                        source.proof().proves(),
                        s);
                mayExplain(signal, routed.turn(), joins.ticket());
            }
            case Routed.Way.Noted noted -> {
                Matter then = after == null
                        ? null
                        : after.setAside(noted.under(), noted.because(), now).judged();
                Settlement s =
                        new Settlement(List.of(routed(signal, "noted", routed.turn(), why)), read, then, false, null);
                Event.SignalsHeard heard = heard(signal, routed.turn(), after, noted.because());
                hear(
                        noted.under(),
                        "noted." + noted.under() + "." + signal.id(),
                        signal.source(),
                        heard,
                        routed,
                        source.proof().proves(),
                        s);
            }
            case Routed.Way.Opens opens -> {
                Settlement s = new Settlement(
                        List.of(routed(signal, "opened", routed.turn(), why)),
                        read,
                        after == null ? null : after.onItsOwn().judged(),
                        true,
                        opens.recovery());
                open(signal, source, routed, opens, s, after);
            }
            case Routed.Way.Kept kept -> {
                Settlement.Routed one = routed(signal, "kept", routed.turn(), why);
                Matter then = after == null ? null : after.onItsOwn().judged();
                settle(new Settlement(List.of(one), read, then, false, null), null);
            }
        }
    }

    /** Opens a ticket, with what becomes of the signal; where none can be opened, it is kept with the reason. */
    void open(
            Signal signal,
            Source source,
            Routed routed,
            Routed.Way.Opens opens,
            Settlement settlement,
            @Nullable Matter after) {
        Command raise = new Command.RaiseBySignal(
                opens.kind(),
                fields(signal, source),
                heard(signal, routed.turn(), after),
                routed.looks(),
                routed.starts(),
                source.proof().proves());
        Actor by = new Actor.Outside(source.key().value());
        CommandService.Outcome outcome = commands.raise(opens.kind(), "signal." + signal.id(), by, raise, settlement);
        switch (outcome) {
            case CommandService.Outcome.Done done -> {
                for (TicketId other : opens.beside()) {
                    commands.handle(
                            new TicketId(done.ticket()),
                            "beside." + signal.id() + "." + other,
                            Actor.SYSTEM,
                            new Command.LinkTicket(other, LinkKind.RELATED, false));
                }
                mayExplain(signal, routed.turn(), new TicketId(done.ticket()));
            }
            case CommandService.Outcome.Refused refused -> {
                LOG.warn(
                        "no ticket could be opened for signal {}: {}",
                        signal.id(),
                        refused.refusal().message());
                settle(
                        new Settlement(
                                List.of(notOpened(
                                        signal, routed.turn(), refused.refusal().message())),
                                settlement.before(),
                                settlement.after(),
                                false,
                                null),
                        null);
            }
        }
    }

    private void mayExplain(Signal signal, Turn turn, TicketId ticket) {
        if ((turn == Turn.BEGINS || turn == Turn.WORSE) && signal.ci() != null && signal.severity() != null) {
            folding.turned(ticket, signal.ci(), signal.severity());
        }
    }

    private static Settlement.Routed notOpened(Signal s, Turn turn, String why) {
        Settlement.Routed kept = routed(s, "kept", turn, null);
        return new Settlement.Routed(
                kept.id(),
                kept.state(),
                turn,
                kept.sort(),
                kept.severity(),
                kept.title(),
                kept.ci(),
                kept.understood(),
                null,
                "No ticket could be opened: " + why);
    }

    static Map<String, Object> fields(Signal s, Source source) {
        Map<String, Object> fields = new HashMap<>();
        Severity severity = s.severity() == null ? Severity.INDETERMINATE : s.severity();
        fields.put("title", s.title());
        fields.put("impact", severity.impact());
        fields.put("urgency", severity.urgency());
        List<String> words = new ArrayList<>();
        if (s.text() != null) {
            words.add(s.text());
        }
        if (s.link() != null) {
            words.add(s.link());
        }
        if (!words.isEmpty()) {
            fields.put("description", String.join("\n", words));
        }
        if (s.ci() != null) {
            fields.put("ci", s.ci().value());
        }
        if (s.service() != null) {
            fields.put("service", s.service().value());
        }
        if (source.group() != null) {
            fields.put("group", source.group());
        }
        return fields;
    }

    /**
     * Has a ticket hear of signals, with what becomes of them.
     *
     * @throws Cases.Contended where it has ended meanwhile: nothing is written, and it is looked at again with that known
     */
    void hear(
            TicketId ticket,
            String id,
            SourceKey source,
            Event.SignalsHeard heard,
            Routed routed,
            boolean proved,
            Settlement settlement) {
        CommandService.Outcome outcome = commands.handle(
                ticket,
                id,
                new Actor.Outside(source.value()),
                new Command.HearSignals(heard, routed.looks(), routed.starts(), proved),
                settlement);
        if (outcome instanceof CommandService.Outcome.Refused) {
            throw contended();
        }
    }

    /** Writes what becomes of signals where no ticket changes. */
    void settle(Settlement settlement, @Nullable TicketId ticket) {
        if (!matters.settle(settlement, ticket)) {
            throw contended();
        }
    }

    static Cases.Contended contended() {
        return Cases.contended("What becomes of signals was settled elsewhere meanwhile.");
    }

    /** What the record is told. Of what repeats it is told all that waited. */
    static Event.SignalsHeard heard(Signal s, Turn turn, @Nullable Matter matter) {
        return heard(s, turn, matter, null);
    }

    /** @param because why it is noted on a ticket that is not about it; null where it is */
    private static Event.SignalsHeard heard(
            Signal s, Turn turn, @Nullable Matter matter, Aside.@Nullable Because because) {
        boolean many =
                turn == Turn.REPEATS && matter != null && matter.notEntered().count() > 0;
        return new Event.SignalsHeard(
                s.source(),
                turn,
                many ? matter.notEntered().count() : 1,
                many && matter.notEntered().first() != null
                        ? matter.notEntered().first()
                        : s.cameAt(),
                s.cameAt(),
                s.id(),
                s.severity(),
                s.ci(),
                because,
                s.matter(),
                s.title(),
                s.text(),
                s.link(),
                s.values().isEmpty() ? null : s.values());
    }

    /** What stands on the signal. */
    static Settlement.Routed routed(Signal s, String state, Turn turn, @Nullable String why) {
        return new Settlement.Routed(
                s.id(),
                state,
                turn,
                s.sort().word(),
                s.severity() == null ? null : s.severity().word(),
                s.title(),
                s.ci() == null ? null : s.ci().value(),
                Json.write(s),
                why,
                null);
    }
}
