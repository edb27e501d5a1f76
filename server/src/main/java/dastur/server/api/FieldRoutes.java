package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.SetUp;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The fields that tickets and CIs of this organisation have beside the built-in ones (M17). */
final class FieldRoutes {
    /** @param kinds of which kinds of CI an attribute is, by its name; of all where nothing is said */
    record FieldsView(List<Field> ticket, List<Field> ci, Map<String, List<String>> kinds) {
        static FieldsView of(FieldCatalogue fields) {
            return new FieldsView(fields.ticket(), fields.ci(), fields.kinds());
        }
    }

    /** @param was as they were when they were read: what somebody else changed meanwhile is not lost */
    record FieldsBody(
            @Nullable List<Field> ticket,
            @Nullable List<Field> ci,
            @Nullable Map<String, List<String>> kinds,
            @Nullable FieldsView was) {}

    private final Organisation organisation;
    private final SetUp setUp;
    private final InstantSource clock;

    private FieldRoutes(Organisation organisation, SetUp setUp, InstantSource clock) {
        this.organisation = organisation;
        this.setUp = setUp;
        this.clock = clock;
    }

    static Stream<Route> of(Organisation organisation, SetUp setUp, InstantSource clock) {
        FieldRoutes r = new FieldRoutes(organisation, setUp, clock);
        return Stream.of(
                Route.get(
                        "/api/fields",
                        Right.SEE,
                        "The organisation's own fields of tickets and CIs",
                        FieldsView.class,
                        q -> FieldsView.of(organisation.fields())),
                Route.put(
                        "/api/fields",
                        Right.DESIGN,
                        "Declare fields of tickets and CIs",
                        FieldsBody.class,
                        null,
                        r::put));
    }

    private @Nullable Object put(Request q) {
        FieldsBody body = q.body(FieldsBody.class);
        FieldCatalogue now = organisation.fields();
        if (body.was() != null && !body.was().equals(FieldsView.of(now))) {
            throw changed();
        }
        FieldCatalogue next = new FieldCatalogue(
                Objects.requireNonNullElse(body.ticket(), now.ticket()),
                Objects.requireNonNullElse(body.ci(), now.ci()),
                Objects.requireNonNullElse(body.kinds(), now.kinds()));
        now.problemWith(next).ifPresent(wrong -> {
            throw Problem.invalid(wrong.where(), wrong.message()).end();
        });
        if (!setUp.fields(Answers.by(q, clock), now, next)) {
            throw changed();
        }
        return null;
    }

    private static RuntimeException changed() {
        return Problem.conflict("Somebody else has changed the fields meanwhile. Look at them again.")
                .end();
    }
}
