package dastur.core.workflow;

import java.util.List;
import java.util.Optional;

/** What the exits of a step depend on outside its workflow. */
public interface Known {
    /** Knows nothing. */
    Known NOTHING = new Known() {
        @Override
        public Optional<Action> action(ActionKey key) {
            return Optional.empty();
        }

        @Override
        public List<String> results(WorkflowKey workflow) {
            return List.of();
        }
    };

    Optional<Action> action(ActionKey key);

    /** The results with which a workflow's live version can end, in order; empty when there is none. */
    List<String> results(WorkflowKey workflow);
}
