package dastur.core.run;

import dastur.core.workflow.Step;
import java.util.Optional;

/** A kind of step that may reach beyond its ticket: on a test it is withheld until somebody wants it in earnest (I4). */
public interface Reaches<S extends Step> {
    /** What it would do elsewhere, as completes the sentence "it would …"; empty where it stays on its ticket. */
    Optional<String> reaches(S step, Here here);
}
