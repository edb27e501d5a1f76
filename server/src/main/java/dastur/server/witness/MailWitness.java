package dastur.server.witness;

import dastur.connectors.MailConnector;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.time.Duration;
import java.util.Date;
import org.jspecify.annotations.Nullable;

/** Somebody who is mailed a statement once a day, and keeps the mails. */
final class MailWitness implements Witness {
    private static final Duration EVERY = Duration.ofDays(1);

    private final MailConnector mail;
    private final String address;

    MailWitness(MailConnector mail, String address) {
        this.mail = mail;
        this.address = address;
    }

    @Override
    public Witnessed.Kind kind() {
        return Witnessed.Kind.MAIL;
    }

    @Override
    public String name() {
        return address;
    }

    @Override
    public Duration every() {
        return EVERY;
    }

    @Override
    public @Nullable String give(Checkpoint checkpoint) throws NotGiven {
        try {
            mail.send(
                    new MailConnector.Mail(
                            "witness." + checkpoint.hash(),
                            address,
                            "How far the log reaches: " + checkpoint.size() + " changes",
                            """
                            The log over all records had %d changes at %s.

                            Please keep this mail. Whoever runs the database cannot take it back: if a record of before \
                            today is ever in doubt, put the line below into a file, and
                            ./dastur audit --witness FILE
                            says whether the log still is the one it was today.

                            %s
                            """.formatted(checkpoint.size(), checkpoint.at(), Json.write(checkpoint))),
                    Date.from(checkpoint.at()));
            return null;
        } catch (MailConnector.NotSent e) {
            throw new NotGiven(e.getMessage(), e);
        }
    }
}
