package dastur.core.start;

import dastur.core.expression.Clause;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.run.Event.Look;
import dastur.core.signal.Aside;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.signal.Turn;
import dastur.core.start.Routed.Told;
import dastur.core.start.Routed.Way;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * What becomes of a signal (I5): is an open ticket about the same, which triggers take it up, and else what its source says.
 * Each question that is asked leaves a line, whatever the answer.
 */
public final class Routing {
    /**
     * What routing reads besides the signal.
     *
     * @param before the matter as it stood before the signal; null for none yet, or for what is no matter
     * @param turned the matter after it; null for what is no matter
     * @param ticket how the ticket stands that is about the matter; null for none
     * @param aside how the ticket stands that has explained the matter's fault so far; null for none
     * @param around what may explain it
     * @param again why it is judged though nothing new has come, as the end of a sentence; null for what has come just now
     * @param triggers all of live workflows, in their order
     * @param values what conditions read: {@code signal}, {@code ci}, {@code service}
     * @param now the moment of the decision
     */
    public record Facts(
            Source source,
            @Nullable Matter before,
            Matter.@Nullable Turned turned,
            @Nullable Stands ticket,
            @Nullable Stands aside,
            Around around,
            @Nullable String again,
            List<Trigger.Live> triggers,
            Expressions expressions,
            Scope values,
            Instant now) {}

    /** How a ticket stands. */
    public record Stands(TicketId ticket, TicketKind kind, String state) {
        boolean ended() {
            return TicketKind.ended(state);
        }

        boolean solved() {
            return state.equals(kind.solvedState());
        }
    }

    private final Signal signal;
    private final Facts facts;
    private final Turn turn;
    private final List<Told> told = new ArrayList<>();
    private final List<Look> looks = new ArrayList<>();
    private final List<Trigger.Live> starts = new ArrayList<>();
    /** Tickets to link with the one that it opens. */
    private final List<TicketId> beside = new ArrayList<>();

    /** The first trigger that starts something. */
    private @Nullable Look won;

    private Routing(Signal signal, Facts facts) {
        this.signal = signal;
        this.facts = facts;
        this.turn = facts.turned() == null ? Turn.NEWS : facts.turned().turn();
    }

    public static Routed route(Signal signal, Facts facts) {
        Routing routing = new Routing(signal, facts);
        Way way = routing.way();
        return new Routed(
                way, routing.turn, List.copyOf(routing.told), List.copyOf(routing.looks), List.copyOf(routing.starts));
    }

    /**
     * How every trigger that listens to signals stands to one, in their order, however many there are: not kept, and told where somebody
     * asks (I26).
     */
    public static List<Look> everyTrigger(Signal signal, Facts facts) {
        Routing routing = new Routing(signal, facts);
        routing.listening().forEach(routing::see);
        return List.copyOf(routing.looks);
    }

    private Way way() {
        tell("what it says of the matter", false, turnWords());
        Optional<TicketId> joins = joins();
        Optional<Way> explained = joins.isPresent() ? Optional.empty() : explained();
        if (explained.isPresent()) {
            tell("triggers", false, "not looked at: what is explained starts nothing");
            return explained.get();
        }
        boolean looks = isTurn() && turn != Turn.UNSTEADY;
        if (looks) {
            look();
        } else {
            tell("triggers", false, "not looked at: only what turns the matter starts anything");
        }
        if (joins.isPresent()) {
            return new Way.Joins(joins.get(), isTurn());
        }
        Optional<Trigger.Live> opens = starts.stream()
                .filter(t -> t.trigger().mode() != Trigger.Mode.NOTES)
                .findFirst();
        if (opens.isPresent() && opens.get().trigger().when() instanceof Trigger.SignalComes when) {
            TicketKind kind = when.kind() == null ? TicketKind.INCIDENT : when.kind();
            return new Way.Opens(kind, beside, recovery(when));
        }
        return otherwise();
    }

    private static Matter.Recovery recovery(Trigger.SignalComes when) {
        return when.recovery() == null ? Matter.Recovery.USUAL : when.recovery();
    }

    private boolean isTurn() {
        return switch (turn) {
            case BEGINS, WORSE, RECOVERED, NEWS, UNSTEADY -> true;
            case REPEATS, STILL, NOTHING, OUT_OF_ORDER -> false;
        };
    }

    private String turnWords() {
        Matter after = facts.turned() == null ? null : facts.turned().matter();
        return switch (turn) {
            case BEGINS -> facts.again() == null ? "it begins: it was not in fault before" : facts.again();
            case WORSE -> "it gets worse: " + word(facts.before()) + " before, now " + word(after);
            case REPEATS -> "it says the same again";
            case RECOVERED -> "it has recovered";
            case STILL -> "this source says that it is well, " + names(after) + " still reports the fault";
            case NEWS -> signal.matter() == null ? "nothing: it names no CI and no alarm, so it is news" : "news of it";
            case NOTHING -> "it is well, of which nobody had said otherwise";
            case OUT_OF_ORDER -> "it is well again, but as of a time before the last fault";
            case UNSTEADY ->
                "it turns to and fro: "
                        + (after == null ? "" : after.turns().times().size() + " turns of late, ")
                        + "so this turn starts and restores nothing";
        };
    }

    private static String word(@Nullable Matter matter) {
        return matter == null || matter.standing().worst() == null
                ? "nothing"
                : matter.standing().worst().word();
    }

    private static String names(@Nullable Matter matter) {
        return matter == null
                ? ""
                : matter.standing().inFault().stream().map(Object::toString).collect(Collectors.joining(" and "));
    }

    // --- an open ticket about the same

    private Optional<TicketId> joins() {
        String asked = "an open ticket is about the same";
        Stands on = facts.ticket();
        if (on == null) {
            return tell(asked, false, "none is");
        }
        if (on.ended()) {
            beside.add(on.ticket());
            return tell(asked, false, on.ticket() + " was, and is " + on.state());
        }
        if (on.solved() && turn == Turn.BEGINS && !comesBackSoon()) {
            beside.add(on.ticket());
            return tell(asked, false, on.ticket() + " was, and is " + on.state() + " for longer than 2 hours");
        }
        tell(asked, true, on.ticket() + (on.solved() ? ", which is taken up again" : ""));
        return Optional.of(on.ticket());
    }

    private boolean comesBackSoon() {
        Matter before = facts.before();
        return before != null
                && Duration.between(before.standing().since(), signal.cameAt()).compareTo(Matter.TAKEN_UP_AGAIN) <= 0;
    }

    private Optional<TicketId> tell(String asked, boolean took, String answer) {
        told.add(new Told(asked, took, answer));
        return Optional.empty();
    }

    // --- what explains it (I21, I22)

    private Optional<Way> explained() {
        return switch (turn) {
            case BEGINS, WORSE -> faultExplained();
            case UNSTEADY -> isClear() ? whereItIsNoted() : faultExplained();
            case RECOVERED, REPEATS, STILL -> whereItIsNoted();
            case NEWS, NOTHING, OUT_OF_ORDER -> Optional.empty();
        };
    }

    private Optional<Way> faultExplained() {
        return plannedWork().or(this::consequence);
    }

    /** What more is said of a fault that is explained goes where it is noted: that it is over, too. */
    private Optional<Way> whereItIsNoted() {
        Aside aside = aside();
        if (aside == null || facts.aside() == null || facts.aside().ended()) {
            return Optional.empty();
        }
        tell(
                "what has explained it",
                true,
                aside.under() + ": " + aside.because().word());
        return Optional.of(new Way.Noted(aside.under(), aside.because()));
    }

    private @Nullable Aside aside() {
        return facts.before() == null ? null : facts.before().aside();
    }

    private Optional<Way> plannedWork() {
        String asked = "planned work goes on there";
        Optional<Around.PlannedWork> work = facts.around().planned().stream()
                .filter(p -> p.goesOn(facts.now()))
                .findFirst();
        if (work.isEmpty()) {
            tell(asked, false, facts.around().planned().isEmpty() ? "no change is planned there" : "not now");
            return Optional.empty();
        }
        TicketId change = work.get().change();
        if (facts.source().neverQuiet()) {
            tell(asked, false, change + ", but what this source reports is told all the same");
            return Optional.empty();
        }
        if (stoodBefore(change)) {
            tell(asked, false, change + ", but this stood before");
            return Optional.empty();
        }
        tell(asked, true, change + " is " + work.get().state());
        return Optional.of(new Way.Noted(change, Aside.Because.PLANNED_WORK));
    }

    private boolean stoodBefore(TicketId change) {
        if (facts.again() != null) {
            return true;
        }
        Aside aside = aside();
        return turn == Turn.WORSE && (aside == null || !aside.under().equals(change));
    }

    private Optional<Way> consequence() {
        String asked = "something that it depends on is in fault";
        Optional<Around.Upstream> cause = facts.around().upstream().stream()
                .filter(u -> u.worst().atLeast(Severity.MAJOR))
                .min(Comparator.comparingInt(Around.Upstream::away).thenComparing(Around.Upstream::since));
        if (cause.isEmpty()) {
            tell(asked, false, facts.around().upstream().isEmpty() ? "none is" : "none badly enough");
            return Optional.empty();
        }
        Around.Upstream from = cause.get();
        String words = "'" + from.name() + "' is, " + from.worst().word() + " (" + from.ticket() + ")";
        if (signal.severity() != null && signal.severity().worseThan(from.worst())) {
            tell(asked, false, words + ", but this is worse: it is judged by itself and linked");
            beside.add(from.ticket());
            return Optional.empty();
        }
        tell(asked, true, words);
        return Optional.of(new Way.Noted(from.ticket(), Aside.Because.CONSEQUENCE));
    }

    // --- triggers

    private void look() {
        List<Trigger.Live> listening = listening();
        boolean many = listening.size() > Look.ALL_TOLD;
        listening.stream().filter(live -> !(many && passedOver(live.trigger()))).forEach(this::see);
        List<Look> told = Look.told(looks, listening.size());
        looks.clear();
        looks.addAll(told);
        String taking = starts.stream().map(Trigger.Live::name).distinct().collect(Collectors.joining(", "));
        tell(
                "triggers, in their order",
                !starts.isEmpty(),
                listening.isEmpty()
                        ? "none listens to signals"
                        : starts.isEmpty() ? "none of " + listening.size() + " holds" : taking);
    }

    private List<Trigger.Live> listening() {
        return facts.triggers().stream()
                .filter(t -> t.trigger().when() instanceof Trigger.SignalComes)
                .toList();
    }

    private void see(Trigger.Live one) {
        // Whoever can send from its address can say anything: then people decide what starts (I2).
        Trigger.Live live = facts.source().proof().proves() ? one : one.asking();
        if (live.trigger().when() instanceof Trigger.SignalComes when) {
            Look look = look(live, when);
            looks.add(look);
            if (look.holds()) {
                starts.add(live);
            }
            won = won == null && look.started() ? look : won;
        }
    }

    /** Whether one of many is left out without a line: what it listens to, or compares with a fixed value, is something else (I26). */
    private boolean passedOver(Trigger trigger) {
        return !trigger.on()
                || !(trigger.when() instanceof Trigger.SignalComes when)
                || when.source() != null && !when.source().equals(signal.source())
                || when.sort() != sort()
                || !Texts.blank(trigger.condition())
                        && facts.expressions().rulesOut(trigger.condition(), facts.values());
    }

    private Look look(Trigger.Live live, Trigger.SignalComes when) {
        Trigger trigger = live.trigger();
        Optional<String> not = not(trigger, when);
        if (not.isPresent()) {
            return no(live, not.get(), null);
        }
        Clause.Explained explained = null;
        if (!Texts.blank(trigger.condition())) {
            explained = facts.expressions().explain(trigger.condition(), facts.values());
            if (explained.verdict() != Verdict.TRUE) {
                boolean says = explained.verdict() == Verdict.FALSE;
                return no(live, says ? "its condition does not hold" : "its condition cannot say", explained);
            }
        }
        if (trigger.givesWay() && won != null) {
            return Look.givesWay(live, won, explained);
        }
        String why = "'" + facts.source().name() + "' says: " + signal.title()
                + (facts.source().proof().proves() ? "" : " (its senders do not show who they are: a person is asked)");
        return switch (trigger.mode()) {
            case STARTS -> new Look(trigger.id(), live.workflow(), live.name(), true, null, why, explained);
            case ASKS, OFFERS, NOTES ->
                new Look(trigger.id(), live.workflow(), live.name(), false, trigger.mode(), why, explained);
        };
    }

    /** What is not as the trigger asks, before its condition. */
    private Optional<String> not(Trigger trigger, Trigger.SignalComes when) {
        if (!trigger.on()) {
            return Optional.of("it is switched off");
        }
        if (when.source() != null && !when.source().equals(signal.source())) {
            return Optional.of("it listens to another source");
        }
        Sort sort = sort();
        if (when.sort() != sort) {
            return Optional.of("it listens to "
                    + (when.sort() == null ? "faults" : when.sort().word()) + ", and this is " + sort.word());
        }
        if (when.atLeast() != null
                && (signal.severity() == null || !signal.severity().atLeast(when.atLeast()))) {
            return Optional.of("it asks for " + when.atLeast().word() + " at least, and this is "
                    + (signal.severity() == null
                            ? "of no severity"
                            : signal.severity().word()));
        }
        boolean ofService = trigger.services().isEmpty()
                || signal.service() != null && trigger.services().contains(signal.service());
        return ofService
                ? Optional.empty()
                : Optional.of("it is for other services, and this is of "
                        + (signal.service() == null ? "none" : "'" + signal.service() + "'"));
    }

    private Sort sort() {
        return signal.matter() == null ? Sort.NEWS : signal.sort();
    }

    private static Look no(Trigger.Live live, String why, Clause.@Nullable Explained explained) {
        return new Look(live.trigger().id(), live.workflow(), live.name(), false, null, why, explained);
    }

    // --- what the source says

    private Way otherwise() {
        String asked = "what the source says of faults that nothing takes up";
        boolean fault = turn == Turn.BEGINS || turn == Turn.WORSE || turn == Turn.UNSTEADY && !isClear();
        if (fault && facts.source().otherwise() == Source.Otherwise.INCIDENT) {
            tell(asked, true, "an incident");
            return new Way.Opens(TicketKind.INCIDENT, beside, Matter.Recovery.USUAL);
        }
        if (fault) {
            tell(asked, true, "they are kept");
        }
        return new Way.Kept(
                switch (turn) {
                    case BEGINS, WORSE, UNSTEADY -> "nothing takes it up";
                    case REPEATS -> "it says the same again, and no ticket is about it";
                    case RECOVERED, STILL, NOTHING, OUT_OF_ORDER -> "no ticket is about it";
                    case NEWS -> "news that nothing takes up";
                });
    }

    private boolean isClear() {
        return facts.turned() == null || facts.turned().matter().isClear();
    }
}
