package dastur.core.notation;

import dastur.core.workflow.Level;
import java.util.function.Consumer;

/** A line below a sentence, with what stands below it in turn. */
public interface Line {
    /** Reads the line from where it stands. */
    Scanner in();

    /** The text it gives: in quotes, or line by line behind bars below it. */
    String text();

    /** Reads each line that stands below this one; a fault in one keeps none of the others from being read. */
    void each(Consumer<Scanner> one);

    /** The steps that stand below this line. */
    Level steps();
}
