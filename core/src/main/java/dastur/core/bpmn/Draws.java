package dastur.core.bpmn;

import dastur.core.workflow.Step;
import java.util.Map;

/** How a kind of step stands in the standard's diagram. What the standard has no word for stands beside it in our extension. */
public interface Draws<S extends Step> {
    Drawing drawing(S step);

    /** The exit meant by the one way that leaves a step made of another's element without saying it. */
    String usualExit();

    /** The exits meant by events on the step's border, by the standard's definition of the event. */
    Map<String, String> borderExits();
}
