package dastur.core.run;

import org.jspecify.annotations.Nullable;

/** Where something happens: in a run, at a place inside its brackets. @param place null at the top level */
record Position(Run run, @Nullable Place place) {
    RunId id() {
        return run.id();
    }
}
