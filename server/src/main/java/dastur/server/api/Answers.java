package dastur.server.api;

import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Journal;
import java.time.InstantSource;

/** What several subjects' routes share. */
final class Answers {
    /** A command was accepted. @param seq the ticket's last entry after it */
    record Accepted(String ticket, long seq) {}

    private Answers() {}

    static Accepted of(Outcome outcome) {
        return switch (outcome) {
            case Outcome.Done done -> new Accepted(done.ticket(), done.seq());
            case Outcome.Refused refused -> throw Problem.of(refused.refusal()).end();
        };
    }

    /** Who changed the set-up, and when: for its journal. */
    static Journal.By by(Request q, InstantSource clock) {
        return new Journal.By(q.person().id(), clock.instant());
    }
}
