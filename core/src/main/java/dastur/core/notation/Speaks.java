package dastur.core.notation;

import dastur.core.workflow.Step;
import java.util.List;

/** How a kind of step is said and read in the text of a workflow (docs/notation.md). */
public interface Speaks<S extends Step> {
    /** The words that begin its sentences, each its own; the longest that fits is taken. */
    List<String> heads();

    /** Reads the rest of a sentence. @param head the one that began it */
    Begun begin(String head, Scanner in);

    /** The whole sentence; reading it gives the step again, together with its settings. */
    String sentence(S step);

    /** Writes what stands below the sentence, beside the ways and the steps inside. */
    void settings(S step, Out out);
}
