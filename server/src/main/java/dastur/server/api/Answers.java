package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.ticket.TicketId;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.work.CommandService.Outcome;

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

    /** Ends the request as not found when the person may not know of the ticket: its existence is not told. */
    static void mustSee(App app, Person person, TicketId ticket) {
        if (!Visibility.maySee(app, person, ticket)) {
            throw Problem.notFound("There is no ticket " + ticket + ".").end();
        }
    }
}
