package dastur.server.api;

import dastur.core.run.Case;
import dastur.core.ticket.CiId;
import dastur.server.api.Views.CiView;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import java.time.InstantSource;
import java.util.Optional;

/** What is known of a ticket's CI and of what is open around it. */
final class CiFacts {
    private final Organisation organisation;
    private final Neighbours neighbours;
    private final InstantSource clock;

    CiFacts(Organisation organisation, Neighbours neighbours, InstantSource clock) {
        this.organisation = organisation;
        this.neighbours = neighbours;
        this.clock = clock;
    }

    Optional<CiView> of(Case c) {
        return c.text("ci").map(CiId::new).flatMap(id -> organisation.ci(id).map(item -> {
            Neighbours.Neighbourhood around =
                    neighbours.around(id, c.id(), clock.instant().minus(AskViews.RECENT));
            return new CiView(
                    item, organisation.relationsOf(id), around.openOnCi(), around.recentOnCi(), around.others());
        }));
    }
}
