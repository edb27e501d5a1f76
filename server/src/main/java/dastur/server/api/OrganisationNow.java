package dastur.server.api;

import dastur.core.finding.KnownOrganisation;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.server.App;
import java.util.List;

/** The organisation as workflows are checked against it. */
final class OrganisationNow {
    private OrganisationNow() {}

    static KnownOrganisation of(App app) {
        List<Action> actions = app.workflows().actions();
        List<Ladder> ladders = app.workflows().ladders();
        return new KnownOrganisation(
                app.organisation().fields(),
                app.organisation()::group,
                app.organisation()::person,
                key -> actions.stream().filter(a -> a.key().equals(key)).findFirst(),
                key -> ladders.stream().filter(l -> l.key().equals(key)).findFirst(),
                key -> app.workflows().liveVersion(key).flatMap(n -> app.workflows()
                        .version(key, n)),
                app.workflows().liveTriggers(),
                app.organisation()::rota,
                app.workflows()::callersOf);
    }
}
