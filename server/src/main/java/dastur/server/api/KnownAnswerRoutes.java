package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.ticket.ServiceId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.KnownAnswers;
import dastur.store.KnownAnswers.KnownAnswer;
import dastur.store.Organisation;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Answers that are known: kept, and offered while somebody types (N49). */
final class KnownAnswerRoutes {
    /** Below this nothing is offered: a person decides. */
    static final double CONFIDENT = 0.45;

    private static final int OFFERED = 2;

    record AnswerBody(
            String question,
            String answer,
            @Nullable ServiceId service,
            String source,
            @Nullable LocalDate validUntil,
            @Nullable PersonId keeper) {}

    private final InstantSource clock;
    private final KnownAnswers known;
    private final Organisation organisation;

    private KnownAnswerRoutes(InstantSource clock, KnownAnswers known, Organisation organisation) {
        this.clock = clock;
        this.known = known;
        this.organisation = organisation;
    }

    static Stream<Route> of(InstantSource clock, KnownAnswers known, Organisation organisation) {
        KnownAnswerRoutes r = new KnownAnswerRoutes(clock, known, organisation);
        return Stream.of(
                Route.list("/api/known-answers", Right.SEE, "All known answers", KnownAnswer.class, q -> known.all()),
                Route.list(
                        "/api/known-answers/fitting",
                        Right.ASK,
                        "Known answers that fit a text",
                        KnownAnswers.Fit.class,
                        r::fitting,
                        "text",
                        "service"),
                Route.put("/api/known-answers/{id}", Right.WORK, "Set a known answer", AnswerBody.class, null, r::put),
                Route.delete("/api/known-answers/{id}", Right.WORK, "Delete a known answer", r::delete),
                Route.post(
                        "/api/known-answers/{id}/helped",
                        Right.ASK,
                        "Say that an answer helped",
                        null,
                        null,
                        r::helped));
    }

    private LocalDate today() {
        return LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
    }

    private Object fitting(Request q) {
        ServiceId service = q.query("service")
                .map(s -> TicketRoutes.id("service", s, ServiceId::new))
                .orElse(null);
        return q.query("text").map(t -> known.fitting(t, service, today(), OFFERED)).orElse(List.of()).stream()
                .filter(f -> f.confidence() >= CONFIDENT)
                .toList();
    }

    private Object put(Request q) {
        AnswerBody body = q.body(AnswerBody.class);
        bounded("question", body.question(), 500);
        bounded("answer", body.answer(), Texts.MAX_TEXT);
        bounded("source", body.source(), 500);
        if (body.service() != null && organisation.service(body.service()).isEmpty()) {
            throw Problem.invalid("service", "There is no service '" + body.service() + "'.")
                    .end();
        }
        PersonId keeper = body.keeper() == null ? q.person().id() : body.keeper();
        if (organisation.person(keeper).isEmpty()) {
            throw Problem.invalid("keeper", "There is nobody called '" + keeper + "'.")
                    .end();
        }
        known.put(
                Answers.by(q, clock),
                new KnownAnswer(
                        id(q),
                        body.question().strip(),
                        body.answer().strip(),
                        body.service(),
                        body.source().strip(),
                        body.validUntil(),
                        keeper,
                        0));
        return null;
    }

    private static String id(Request q) {
        return q.path("id", text -> {
            Texts.checkId("known answer", text);
            return text;
        });
    }

    private static void bounded(String where, @Nullable String text, int most) {
        if (Texts.blank(text) || text.length() > most || !Texts.keepable(text)) {
            throw Problem.invalid(where, "'" + where + "' has 1 to " + most + " characters.")
                    .end();
        }
    }

    private Object delete(Request q) {
        known(q);
        known.delete(Answers.by(q, clock), id(q));
        return null;
    }

    private Object helped(Request q) {
        known(q);
        known.helped(id(q));
        return null;
    }

    private void known(Request q) {
        if (known.find(id(q)).isEmpty()) {
            throw Problem.notFound("There is no such answer.").end();
        }
    }
}
