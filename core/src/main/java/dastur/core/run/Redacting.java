package dastur.core.run;

import dastur.core.json.Texts;
import java.util.Optional;

/** Taking free text and values off the record while its seal stays whole (D22). */
final class Redacting {
    private final Deciding d;

    Redacting(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> redact(Command.Redact c) {
        if (Texts.blank(c.reason()) || c.reason().length() > Texts.MAX_TEXT) {
            return Optional.of(Refusal.invalid("reason", "Say why: the reason goes onto the record."));
        }
        if (c.seq() < 1 || c.seq() > d.before.seq()) {
            return Optional.of(Refusal.invalid("seq", "This record has no entry " + c.seq() + "."));
        }
        if (!d.now().open().isEmpty()) {
            return Optional.of(Refusal.invalid(
                    "seq",
                    "A run of this ticket is open and may still use what entry " + c.seq()
                            + " says. Finish or stop it first."));
        }
        d.emitTicket(new Event.Redacted(c.seq(), c.reason()));
        return Optional.empty();
    }
}
