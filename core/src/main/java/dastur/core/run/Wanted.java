package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What a step wants of people, in words: with every message about it, so that nobody has to look it up to know what is
 * meant. Until when, and what happens else, is added where the message goes out, in the time of whoever gets it.
 */
public final class Wanted {
    private static final int MOST = 4_000;

    private final Deciding d;

    Wanted(Deciding d) {
        this.d = d;
    }

    /** A subject that names the ticket. */
    public String subject(String words) {
        return words + " (" + d.now().id() + ")";
    }

    /** The ticket, and what is asked on it. */
    public String of(Visit visit) {
        StringBuilder text = new StringBuilder();
        text.append(d.now().id())
                .append(": ")
                .append(d.now().text("title").orElse(""))
                .append('\n');
        String asked = visit.waiting().words();
        if (!Texts.blank(asked)) {
            text.append('\n').append(asked.strip()).append('\n');
        }
        Map<String, Object> values = visit.waiting().values();
        if (!values.isEmpty()) {
            text.append('\n').append(shown(visit, values));
        }
        return Texts.clip(text.toString(), MOST);
    }

    /** What a decision shows, a line each, by the names that people know. */
    private String shown(Visit visit, Map<String, Object> values) {
        StringBuilder text = new StringBuilder();
        var vocabulary = d.expressions(d.run(visit.id().run())).vocabulary();
        values.forEach((path, value) -> text.append(
                        vocabulary.field(path).map(f -> f.label()).orElse(path))
                .append(": ")
                .append(value)
                .append('\n'));
        return text.toString();
    }

    /** What has changed since people were asked, a line each, and by whom where a person did it. */
    public String changed(Visit visit, Map<String, Event.Change> changes) {
        boolean byWorkflow = changes.keySet().stream()
                .anyMatch(path ->
                        d.setterOf(path.substring(path.lastIndexOf('.') + 1)).isPresent());
        StringBuilder text = new StringBuilder(d.principal()
                        .filter(p -> !byWorkflow)
                        .flatMap(p -> d.lookups().person(p))
                        .map(p -> p.name() + " has changed what was shown")
                        .orElse("What was shown has changed"))
                .append(":\n");
        var vocabulary = d.expressions(d.run(visit.id().run())).vocabulary();
        changes.forEach((path, change) -> text.append(
                        vocabulary.field(path).map(f -> f.label()).orElse(path))
                .append(": ")
                .append(said(change.before()))
                .append(" → ")
                .append(said(change.after()))
                .append('\n'));
        return text.toString();
    }

    private static String said(@Nullable Object value) {
        return Texts.blank(value) ? "nothing" : String.valueOf(value);
    }

    /** Words of one's own before it, where there are any. */
    public String with(@Nullable String words, Visit visit) {
        return Texts.blank(words) ? of(visit) : words.strip() + "\n\n" + of(visit);
    }

    /** Tells somebody that they have the ticket now, unless they took it themselves. */
    void tellGiven(Event.@Nullable Change assignee) {
        if (assignee == null || !(assignee.after() instanceof String id)) {
            return;
        }
        PersonId person = new PersonId(id);
        if (d.person().filter(person::equals).isEmpty()
                && d.principal().filter(person::equals).isEmpty()) {
            new Deliveries(d)
                    .queue(
                            null,
                            null,
                            null,
                            d.actor,
                            "task",
                            List.of(person),
                            subject("Given to you: " + d.now().text("title").orElse("")),
                            d.now().text("description").orElse(""));
        }
    }
}
