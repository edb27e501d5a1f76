package dastur.server.chat;

import dastur.connectors.MatrixConnector.Said;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.work.ByHand;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Chats.TicketRoom;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Starts a workflow by hand from chat (I13): {@code start I-1042 NAME}, and in the room of a ticket {@code start NAME}. Only its
 * whole name, or its key, starts it; what is near it is asked back. People talk in the rooms of tickets: there, what names no
 * workflow is no command.
 */
final class StartFromChat {
    private static final Pattern START = Pattern.compile(
            "start(?:\\s+([A-Z]-\\d{1,9}))?(?:\\s*:\\s*|\\s+|$)(.*)", Pattern.CASE_INSENSITIVE | Pattern.DOTALL);

    private final Chat.Uses means;

    StartFromChat(Chat.Uses means) {
        this.means = means;
    }

    /** Does what a message asks for. @return what to answer; empty when the message is no such command */
    Optional<String> heard(Said said, Person person) {
        Matcher start = START.matcher(said.text().strip());
        if (!said.isMessage() || !start.matches()) {
            return Optional.empty();
        }
        String name = start.group(2).strip();
        Optional<TicketId> here = means.chats().ticketRoom(said.room()).map(TicketRoom::ticket);
        boolean talk = here.isPresent() && start.group(1) == null;
        Optional<TicketId> ticket = named(start.group(1)).or(() -> here);
        if (ticket.isEmpty()) {
            return Optional.of("On which ticket? Say “start I-1042 NAME”.");
        }
        Optional<Case> on = means.tickets().find(ticket.get()).filter(c -> FromChat.sees(person, c));
        if (on.isEmpty() || on.get().kind() == null) {
            return talk ? Optional.empty() : Optional.of("There is no ticket " + ticket.get() + " that you may see.");
        }
        List<WorkflowVersion> all = means.byHand().on(on.get().kind());
        Optional<WorkflowVersion> meant = all.stream().filter(v -> is(v, name)).findFirst();
        if (meant.isPresent()) {
            return Optional.of(start(said, person, ticket.get(), meant.get()));
        }
        return talk && !name.isEmpty() ? Optional.empty() : Optional.of(which(ticket.get(), name, all));
    }

    private static Optional<TicketId> named(@Nullable String number) {
        return Optional.ofNullable(number).map(n -> new TicketId(n.toUpperCase(Locale.ROOT)));
    }

    private static boolean is(WorkflowVersion v, String name) {
        return v.name().equalsIgnoreCase(name) || v.key().value().equalsIgnoreCase(name);
    }

    private static String which(TicketId ticket, String name, List<WorkflowVersion> all) {
        if (all.isEmpty()) {
            return "Nothing can be started by hand on " + ticket + ".";
        }
        String small = name.toLowerCase(Locale.ROOT);
        List<WorkflowVersion> near = all.stream()
                .filter(v ->
                        !small.isEmpty() && v.name().toLowerCase(Locale.ROOT).contains(small))
                .toList();
        String listed = (near.isEmpty() ? all : near)
                .stream().map(v -> "“start " + ticket + " " + v.name() + "”").collect(Collectors.joining("; "));
        return (near.isEmpty() ? "Nothing was started. It can be: " : "Nothing was started. Do you mean ")
                + listed
                + (near.isEmpty() ? "." : "?");
    }

    private String start(Said said, Person person, TicketId ticket, WorkflowVersion v) {
        List<String> needed =
                v.startForm().stream().filter(Field::required).map(Field::label).toList();
        if (!needed.isEmpty()) {
            return "“" + v.name() + "” asks for " + String.join(", ", needed) + ". Start it on the ticket: "
                    + means.address().get() + "/tickets/" + ticket;
        }
        Outcome outcome = means.commands()
                .handle(ticket, "chat." + said.event(), Actor.of(person.id()), new Command.StartRun(v.key(), Map.of()));
        return switch (outcome) {
            case Outcome.Refused r -> r.refusal().message();
            case Outcome.Done d ->
                "Started “" + v.name() + "” on " + ticket + ": " + String.join(", then ", ByHand.mainLine(v)) + ".";
        };
    }
}
