package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import java.util.Optional;

/** Results that came when nobody waited for them any more (D15). */
final class LateResults {
    private final Deciding d;

    LateResults(Deciding d) {
        this.d = d;
    }

    /** Somebody has looked at what came too late. */
    Optional<Refusal> settle(Command.SettleLate c) {
        if (!d.now().late().containsKey(c.visit())) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "Somebody has looked at it already.", null));
        }
        Optional<PersonId> person = d.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can look at it."));
        }
        if (c.note() != null && (c.note().length() > Texts.MAX_TEXT || !Texts.keepable(c.note()))) {
            return Optional.of(Refusal.invalid("note", "A note has at most " + Texts.MAX_TEXT + " characters."));
        }
        d.emit(
                d.actor,
                c.visit().run(),
                null,
                c.visit(),
                new Event.LateSettled(person.get(), Texts.blank(c.note()) ? null : c.note()));
        return Optional.empty();
    }
}
