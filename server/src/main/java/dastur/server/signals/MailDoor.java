package dastur.server.signals;

import dastur.connectors.MailInbox;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.signal.Source;
import dastur.store.Sources;
import java.time.InstantSource;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Takes mail of machines (I2). Each source of mail has an address of its own; what its mailbox holds is read as answers of people are,
 * and marked as read when it is on the disk.
 */
public final class MailDoor {
    private final Sources sources;
    private final Intake intake;
    private final Refusals refusals;
    private final InstantSource clock;

    public MailDoor(Sources sources, Intake intake, Refusals refusals, InstantSource clock) {
        this.sources = sources;
        this.intake = intake;
        this.refusals = refusals;
        this.clock = clock;
    }

    /**
     * Keeps what is for a source, or counts on its page why it was not taken: nobody can be answered here.
     *
     * @return whether it was for one
     * @throws dastur.store.Busy when it cannot be kept now; it is to be offered again
     */
    public boolean take(MailInbox.Reply mail) {
        Optional<Source> found = sources.all().stream()
                .filter(s -> s.proof() == Source.Proof.MAIL && s.post() != null)
                .filter(s -> mail.to().contains(s.post().to()))
                .findFirst();
        found.ifPresent(source -> take(source, mail));
        return found.isPresent();
    }

    private void take(Source source, MailInbox.Reply mail) {
        Source.Post post = source.post();
        if (!source.open()) {
            refuse(source, "shut", "The source is shut.");
        } else if (post == null || !post.takes(mail.from())) {
            refuse(source, "not from there", "Nothing is taken of " + Texts.clip(mail.from(), 100) + ".");
        } else {
            intake.keep(source.key(), clock.instant(), "mail " + mail.id(), Json.write(said(mail)));
        }
    }

    private void refuse(Source source, String reason, String words) {
        refusals.count(source.key(), reason, words, clock.instant());
    }

    private static Map<String, Object> said(MailInbox.Reply mail) {
        Map<String, Object> said = new LinkedHashMap<>();
        said.put("id", mail.id());
        said.put("from", mail.from());
        said.put("to", List.copyOf(mail.to()));
        said.put("subject", mail.subject().replace("\u0000", ""));
        said.put("text", mail.text().replace("\u0000", ""));
        return said;
    }
}
