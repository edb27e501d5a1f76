package dastur.server.chat;

import dastur.connectors.MatrixConnector.Said;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Visit;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.OpenCallIn;
import dastur.server.work.CommandService.Outcome;
import dastur.server.work.Spoken;
import dastur.store.Chats.Asked;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * What somebody says in their room with Dastur becomes an answer to a question asked there. Which question is never
 * guessed: it is the one that is replied to, or the one whose ticket is named ({@code I-1042 1}), or the only one that is
 * open, provided that nothing was asked after it; else it is asked which.
 */
final class Answering {
    private static final int LOOKED_BACK = 50;
    private static final Pattern NAMED =
            Pattern.compile("([A-Z]-\\d{1,9})\\s*[:,]?\\s+(.+)", Pattern.CASE_INSENSITIVE | Pattern.DOTALL);

    /** Which question is meant, with the answer without its name, or why that cannot be said. */
    private sealed interface Meant {
        record This(Asked asked, String text) implements Meant {}

        record Unclear(String why) implements Meant {}
    }

    private final Chat.Uses means;

    Answering(Chat.Uses means) {
        this.means = means;
    }

    /** @return what to say back */
    String answer(Said said, PersonId person) {
        return switch (meant(said, person)) {
            case Meant.Unclear u -> u.why();
            case Meant.This m -> answered(m.asked(), m.text(), said.event());
        };
    }

    private Meant meant(Said said, PersonId person) {
        if (said.answersTo() != null) {
            return means.chats()
                    .asked(said.room(), said.answersTo())
                    .filter(a -> a.person().equals(person))
                    .map(a -> isOpen(a) ? new Meant.This(a, said.text()) : settled(a, List.of()))
                    .orElse(new Meant.Unclear("Nothing waits for your answer here."));
        }
        List<Asked> all = means.chats().askedIn(said.room(), LOOKED_BACK).stream()
                .filter(a -> a.person().equals(person))
                .toList();
        List<Asked> open = all.stream().filter(this::isOpen).toList();
        Matcher named = NAMED.matcher(said.text().strip());
        if (named.matches()) {
            List<Asked> onIt = open.stream()
                    .filter(a -> a.visit().ticket().value().equalsIgnoreCase(named.group(1)))
                    .toList();
            return onIt.size() == 1
                    ? new Meant.This(onIt.getFirst(), named.group(2))
                    : new Meant.Unclear(
                            onIt.isEmpty()
                                    ? "Nothing on " + named.group(1).toUpperCase(Locale.ROOT)
                                            + " waits for your answer."
                                    : "More than one thing is asked on " + named.group(1)
                                            + ". Reply to the message you mean.");
        }
        if (open.isEmpty()) {
            return all.isEmpty() || ChatAnswer.read(said.text()).isEmpty()
                    ? new Meant.Unclear("Nothing waits for your answer here.")
                    : settled(all.getFirst(), open);
        }
        if (!isOpen(all.getFirst())) {
            // The last thing that was asked is settled: a bare answer may be meant for it.
            return settled(all.getFirst(), open);
        }
        return open.size() == 1
                ? new Meant.This(open.getFirst(), said.text())
                : new Meant.Unclear("Which do you mean? Nothing was decided. " + choice(open));
    }

    private Meant settled(Asked asked, List<Asked> open) {
        return new Meant.Unclear("Nothing waits for your answer to " + asked.matter()
                + " any more, so nothing was decided." + (open.isEmpty() ? "" : " " + choice(open)));
    }

    /** How to name each of those that are open. */
    private static String choice(List<Asked> open) {
        return open.stream()
                .map(a -> a.matter() + ": “" + a.visit().ticket() + " 1” or “"
                        + a.visit().ticket() + " 2”")
                .collect(Collectors.joining("; ", "Open: ", ". Or reply to the message you mean."));
    }

    private boolean isOpen(Asked asked) {
        return !asked.settled()
                && visit(asked)
                        .filter(v -> switch (v.waiting()) {
                            case Votes w ->
                                w.round() == asked.round() && !w.cast().containsKey(asked.person());
                            case OpenCallIn in -> !in.cannot().contains(asked.person());
                            default -> false;
                        })
                        .isPresent();
    }

    private Optional<Visit> visit(Asked asked) {
        return means.tickets().find(asked.visit().ticket()).flatMap(c -> c.visit(asked.visit()));
    }

    private String answered(Asked asked, String text, String event) {
        Optional<ChatAnswer> answer = ChatAnswer.read(text);
        if (answer.isEmpty()) {
            return "I did not understand that, so nothing was decided. Begin with 1 or 2, then words after a comma; or with ? to ask first. “ticket: …” raises a ticket.";
        }
        Outcome outcome = means.commands()
                .handle(
                        asked.visit().ticket(),
                        "chat." + event,
                        Actor.of(asked.person()),
                        Choices.command(
                                asked.visit(),
                                asked.round(),
                                asked.digest(),
                                visit(asked).map(Visit::waiting).orElse(null),
                                answer.get()));
        return switch (outcome) {
            case Outcome.Refused r ->
                Spoken.to(
                        r.refusal().message(),
                        means.chats().reach(asked.person()).zone());
            case Outcome.Done d -> Choices.noted(answer.get(), asked.matter());
        };
    }
}
