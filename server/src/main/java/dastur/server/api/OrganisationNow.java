package dastur.server.api;

import dastur.core.finding.KnownOrganisation;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.TermsOfUse;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.util.List;

/** The organisation as workflows are checked against it. */
final class OrganisationNow {
    private OrganisationNow() {}

    static KnownOrganisation of(Organisation organisation, Workflows workflows) {
        List<Action> actions = workflows.actions();
        List<Ladder> ladders = workflows.ladders();
        List<TermsOfUse> terms = workflows.terms();
        return new KnownOrganisation(
                organisation.fields(),
                organisation::group,
                organisation::person,
                key -> actions.stream().filter(a -> a.key().equals(key)).findFirst(),
                key -> ladders.stream().filter(l -> l.key().equals(key)).findFirst(),
                key -> workflows.liveVersion(key).flatMap(n -> workflows.version(key, n)),
                workflows.liveTriggers(),
                organisation::rota,
                workflows::callersOf,
                workflows.sources(),
                key -> terms.stream().filter(t -> t.action().equals(key)).findFirst());
    }
}
