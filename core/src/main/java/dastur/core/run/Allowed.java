package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.ticket.TicketKind;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What a person may do, by whatever way they say it: page, mail, chat, link or token. Doing a task or voting is decided by whom it
 * is offered to, where it is treated; who may know of a ticket is asked before.
 */
final class Allowed {
    /**
     * What may be said when a ticket is raised.
     *
     * @param kinds the kinds of tickets
     * @param fields the fields that may be given; null for all
     * @param forOthers whether the ticket may be raised for somebody else
     */
    private record Raising(Set<TicketKind> kinds, @Nullable Set<String> fields, boolean forOthers) {}

    /** Who works on tickets says everything; their values are checked elsewhere. */
    private static final Raising WORKS = new Raising(
            Stream.of(TicketKind.values()).filter(TicketKind::isRaisedByPeople).collect(Collectors.toUnmodifiableSet()),
            null,
            true);

    private static final Raising ASKS = new Raising(
            Set.of(TicketKind.INCIDENT, TicketKind.REQUEST), Set.of("title", "description", "service", "ci"), false);

    private final Deciding d;

    Allowed(Deciding d) {
        this.d = d;
    }

    /** Why somebody may not do this; empty when they may. Machines and the clock do what they were made to do. */
    Optional<Refusal> refused(Command command) {
        if (!(d.actor instanceof Actor.OfPerson by)) {
            return Optional.empty();
        }
        Optional<Person> person = d.lookups().person(by.person()).filter(Person::active);
        return person.isEmpty()
                ? Optional.of(Refusal.notYours("Nobody with an open account is called '" + by.person() + "'."))
                : refused(person.get(), command);
    }

    private Optional<Refusal> refused(Person person, Command command) {
        return switch (command) {
            case Command.RaiseTicket c -> raising(person, c);
            case Command.AddNote c ->
                c.toRequester()
                        ? needs(person, Right.ASK, "write notes")
                        : needs(person, Right.WORK, "write notes that the requester does not see");
            case Command.KeepReading c -> needs(person, Right.WORK, "read something by hand");
            case Command.AttachFile c -> needs(person, Right.ASK, "attach files");
            case Command.PlanCi c ->
                requester(person)
                        ? needs(person, Right.ASK, "ask for anything")
                        : needs(person, Right.WORK, "plan CIs on tickets of others");
            case Command.EditTicket c -> needs(person, Right.WORK, "change tickets");
            case Command.SaySolved c ->
                requester(person)
                        ? Optional.empty()
                        : Optional.of(Refusal.notYours("Whoever asked says whether it is solved."));
            case Command.StartRun c -> needs(person, Right.WORK, "start workflows");
            case Command.AnswerOffer c -> needs(person, Right.WORK, "start workflows");
            case Command.LinkTicket c ->
                requester(person) ? Optional.empty() : needs(person, Right.WORK, "link tickets");
            case Command.UnlinkTicket c -> needs(person, Right.WORK, "take links away");
            case Command.SettleLate c -> needs(person, Right.WORK, "look after late results");
            case Command.Resend c -> needs(person, Right.WORK, "send messages again");
            case Command.Redact c -> needs(person, Right.ADMINISTER, "take content away");
            case Command.Intervene c -> intervening(person, c);
            case Command.Answering c ->
                switch (c.who()) {
                    case THE_ASKED -> Optional.empty();
                    case REQUESTER_AND_WORKERS ->
                        requester(person) || Right.WORK.of(person)
                                ? Optional.empty()
                                : Optional.of(
                                        Refusal.notYours("The requester answers, or somebody who works on tickets."));
                };
            case Command.Returning c -> c.byPeople() ? needs(person, Right.WORK, "give signals") : byItself();
            case Command.RaiseBySignal c -> byItself();
            case Command.RaiseTest c -> needs(person, Right.DESIGN, "try what a signal does");
            case Command.RaiseByCause c ->
                c.cause() instanceof Cause.Hand ? needs(person, Right.WORK, "start workflows") : byItself();
            case Command.HearSignals c -> byItself();
            case Command.Recover c -> byItself();
            case Command.FindCause c -> byItself();
            case Command.StandByItself c -> needs(person, Right.WORK, "take tickets out from under others");
            case Command.SayToPartner c -> needs(person, Right.WORK, "say something to partners");
            case Command.SettleDifference c -> needs(person, Right.WORK, "settle what partners see otherwise");
            case Command.JoinPartner c -> byItself();
            case Command.TakeOver c -> byItself();
            case Command.LeavePartner c -> byItself();
            case Command.HearPartner c -> byItself();
            case Command.HearFromPartner c -> byItself();
            case Command.ToldPartner c -> byItself();
            case Command.StartSent c -> byItself();
            case Command.RecallSent c -> byItself();
            case Command.DeliveryResult c -> byItself();
            case Command.OpenRoom c -> byItself();
            case Command.HearRoom c -> byItself();
            case Command.RoomFailed c -> byItself();
            case Command.Tick c -> byItself();
            case Command.Recheck c -> byItself();
        };
    }

    private static Optional<Refusal> needs(Person person, Right right, String what) {
        return right.of(person)
                ? Optional.empty()
                : Optional.of(Refusal.notYours("You may not " + what + ". Ask somebody who may, or an administrator."));
    }

    private static Optional<Refusal> byItself() {
        return Optional.of(Refusal.notYours("Only the application itself does this."));
    }

    private boolean requester(Person person) {
        return d.now().text("requester").filter(person.id().value()::equals).isPresent();
    }

    private Optional<Refusal> intervening(Person person, Command.Intervene c) {
        Run run = d.now().open().get(c.run());
        boolean may = Right.DESIGN.of(person) || run != null && run.owner().equals(person.id());
        return may
                ? Optional.empty()
                : Optional.of(Refusal.notYours(
                        "Only the workflow's owner, process owners and administrators may intervene in this run."));
    }

    private static Optional<Refusal> raising(Person person, Command.RaiseTicket c) {
        if (!Right.ASK.of(person)) {
            return needs(person, Right.ASK, "raise tickets");
        }
        Raising may = Right.WORK.of(person) ? WORKS : ASKS;
        if (!may.kinds().contains(c.kind())) {
            if (!c.kind().isRaisedByPeople()) {
                return Optional.of(
                        Refusal.invalid("kind", "A " + c.kind().word() + " comes of what starts it by itself."));
            }
            return Optional.of(Refusal.invalid(
                    "kind",
                    "You may raise an incident or a request. A " + c.kind().word()
                            + " is raised by those who work on tickets."));
        }
        Object requester = c.fields().get("requester");
        if (!may.forOthers() && requester != null && !person.id().value().equals(requester)) {
            return Optional.of(Refusal.invalid("requester", "You ask for yourself; leave 'requester' out."));
        }
        return may.fields() == null ? Optional.empty() : strange(may.fields(), c.fields());
    }

    private static Optional<Refusal> strange(Set<String> may, Map<String, Object> fields) {
        return new TreeSet<>(fields.keySet())
                .stream()
                        .filter(f -> !f.equals("requester") && !may.contains(f))
                        .findFirst()
                        .map(f -> Refusal.invalid(
                                f,
                                "'" + Texts.clip(f, 40)
                                        + "' is set by those who work on the ticket. You say what is the matter: "
                                        + String.join(", ", new TreeSet<>(may)) + "."));
    }
}
