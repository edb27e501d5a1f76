package dastur.core.run;

import dastur.core.workflow.StepId;
import org.jspecify.annotations.Nullable;

/** Stands before a step that is to be opened next. @param place null at the top level */
public record Token(StepId step, @Nullable Place place) {}
