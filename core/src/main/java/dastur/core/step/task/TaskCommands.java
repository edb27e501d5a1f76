package dastur.core.step.task;

import dastur.core.run.Assigned;
import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What people say to tasks. */
public final class TaskCommands {
    private TaskCommands() {}

    public record ClaimTask(VisitId visit) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).claim(this);
        }
    }

    public record HandBackTask(VisitId visit) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).handBack(this);
        }
    }

    public record CompleteTask(
            VisitId visit,
            String outcome,
            Map<String, Object> form,
            @Nullable String note) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).complete(this);
        }
    }

    /** Asks others to help with a task. */
    public record AskHelp(VisitId visit, Assigned to, String text) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).askHelp(this);
        }
    }

    /** Passes a task on to a group or a person, who then has it alone. */
    public record PassOnTask(VisitId visit, Assigned to, String reason) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).passOn(this);
        }
    }

    /** Leaves an optional task out. */
    public record LeaveOut(VisitId visit, String reason) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).leaveOut(this);
        }
    }

    /** Takes one's own outcome back, shortly after and while nothing has followed from it (D29). */
    public record TakeBack(VisitId visit) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new TaskRules(here).takeBack(this);
        }
    }
}
