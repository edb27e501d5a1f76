package dastur.core.run;

import dastur.core.people.PersonId;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A kind of step whose ladders ask people in a way of their own. */
public interface Climbs<S extends Step> {
    /** Does what a rung says; false, having done nothing, where it is done as everywhere. */
    boolean climbs(S step, Visit visit, Rung.Deed deed, Here here, Fired fired);

    /** Enters that the rung has fired. */
    interface Fired {
        /**
         * @param joined who is asked as well
         * @param needed how many must say yes then; null where that stays
         */
        void fired(List<PersonId> joined, @Nullable Integer needed);
    }
}
