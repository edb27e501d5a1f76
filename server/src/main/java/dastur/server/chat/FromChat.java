package dastur.server.chat;

import dastur.connectors.MatrixConnector.NotSent;
import dastur.connectors.MatrixConnector.Said;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Chats.TicketRoom;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What was said in chat becomes a ticket in one gesture, or joins one that is open (N63): {@code ticket: …}, or
 * {@code ticket} in answer to a message, or the mark {@value #MARK} on it; {@code note I-1042: …}, or {@code note I-1042} in
 * answer to a message. Whoever does it needs the same rights as in the application.
 */
final class FromChat {
    private static final String MARK = "🎫";
    private static final int TITLE = 200;
    private static final int FLAGS = Pattern.CASE_INSENSITIVE | Pattern.DOTALL;
    private static final Pattern RAISE = Pattern.compile("ticket\\s*(?::\\s*(.*))?", FLAGS);
    private static final Pattern NOTE = Pattern.compile("note\\s+([A-Z]-\\d{1,9})\\s*(?::\\s*(.*))?", FLAGS);

    private final Chat.Uses means;

    FromChat(Chat.Uses means) {
        this.means = means;
    }

    /** What is meant, and by whom it was said. @param author who said it; null when nobody here */
    private record Meant(String text, @Nullable PersonId author) {}

    /** Does what a message asks for. @return what to answer; empty when the message is no such gesture */
    Optional<String> heard(Said said, Person person) throws NotSent {
        String text = said.text().strip();
        Matcher note = NOTE.matcher(text);
        if (note.matches()) {
            return Optional.of(join(said, person, note.group(1), note.group(2)));
        }
        Matcher raise = RAISE.matcher(text);
        if (raise.matches() || !said.isMessage() && text.equals(MARK)) {
            return Optional.of(raise(said, person, said.isMessage() ? raise.group(1) : null));
        }
        return Optional.empty();
    }

    private Optional<Meant> meant(Said said, Person person, @Nullable String words) throws NotSent {
        if (words != null && !words.isBlank()) {
            return Optional.of(new Meant(words.strip(), person.id()));
        }
        if (said.answersTo() == null) {
            return Optional.empty();
        }
        Said original = means.matrix().event(said.room(), said.answersTo());
        String text = original.text().strip().replaceFirst("^" + TicketRooms.MARK + "\\s*", "");
        return text.isBlank()
                ? Optional.empty()
                : Optional.of(new Meant(
                        text, means.chats().personCalled(original.sender()).orElse(null)));
    }

    private String raise(Said said, Person person, @Nullable String words) throws NotSent {
        Optional<Meant> meant = meant(said, person, words);
        if (meant.isEmpty()) {
            return "What is the matter? Say “ticket: …”, or answer a message with “ticket”.";
        }
        String text = meant.get().text();
        PersonId author = meant.get().author();
        Map<String, Object> fields = new HashMap<>();
        fields.put("title", Texts.clip(text.lines().findFirst().orElse(text), TITLE));
        fields.put("description", Texts.clip(text, Texts.MAX_TEXT));
        // Whose words they are is whom it is for; somebody unknown here cannot be told of it. Who only asks asks for
        // themselves.
        boolean forAuthor = author != null && Right.WORK.of(person);
        fields.put("requester", (forAuthor ? author : person.id()).value());
        Outcome outcome = means.commands()
                .raise(
                        TicketKind.INCIDENT,
                        "chat." + said.event(),
                        Actor.of(person.id()),
                        new Command.RaiseTicket(TicketKind.INCIDENT, fields, null));
        return switch (outcome) {
            case Outcome.Refused r -> r.refusal().message();
            case Outcome.Done d -> {
                link(said, person, new TicketId(d.ticket()));
                yield d.ticket() + " was raised: " + means.address().get() + "/tickets/" + d.ticket();
            }
        };
    }

    /** What came up in a ticket's room has to do with that ticket. */
    private void link(Said said, Person person, TicketId raised) {
        means.chats().ticketRoom(said.room()).map(TicketRoom::ticket).ifPresent(ticket -> means.commands()
                .handle(
                        raised,
                        "chat.link." + said.event(),
                        Actor.of(person.id()),
                        new Command.LinkTicket(ticket, LinkKind.RELATED, false)));
    }

    private String join(Said said, Person person, String number, @Nullable String words) throws NotSent {
        TicketId ticket = new TicketId(number.toUpperCase(java.util.Locale.ROOT));
        Optional<Case> found = means.tickets().find(ticket).filter(c -> sees(person, c));
        if (found.isEmpty()) {
            return "There is no ticket " + ticket + " that you may see.";
        }
        Optional<Meant> meant = meant(said, person, words);
        if (meant.isEmpty()) {
            return "What is to be noted? Say “note " + ticket + ": …”, or answer a message with “note " + ticket + "”.";
        }
        PersonId author = meant.get().author();
        String by = person.id().equals(author)
                ? ""
                : " (said in chat by "
                        + Optional.ofNullable(author)
                                .flatMap(means.person())
                                .map(Person::name)
                                .orElse("somebody else") + ")";
        Outcome outcome = means.commands()
                .handle(
                        ticket,
                        "chat." + said.event(),
                        Actor.of(person.id()),
                        new Command.AddNote(
                                Texts.clip(meant.get().text(), Texts.MAX_TEXT - by.length()) + by,
                                !Right.WORK.of(person)));
        return switch (outcome) {
            case Outcome.Refused r -> r.refusal().message();
            case Outcome.Done d -> "Noted on " + ticket + ".";
        };
    }

    static boolean sees(Person person, Case c) {
        return Right.SEE.of(person)
                || c.text("requester").filter(person.id().value()::equals).isPresent();
    }
}
