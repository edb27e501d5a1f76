package dastur.core.step.approval;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What people say to decisions. */
public final class ApprovalCommands {
    private ApprovalCommands() {}

    public record Vote(
            VisitId visit,
            int round,
            String digest,
            boolean yes,
            @Nullable String comment,
            @Nullable String condition) implements Command.Answering {
        /** Without a condition. */
        public Vote(VisitId visit, int round, String digest, boolean yes, @Nullable String comment) {
            this(visit, round, digest, yes, comment, null);
        }

        @Override
        public Optional<Refusal> treat(Here here) {
            return new Voting(here).vote(this);
        }
    }

    /** Somebody who is asked for a decision asks back first. */
    public record AskBack(VisitId visit, String text) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new Voting(here).askBack(this);
        }
    }

    /** Answers what an approver asked. */
    public record AnswerBack(VisitId visit, String text) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new Voting(here).answerBack(this);
        }

        @Override
        public Command.Answerers who() {
            return Command.Answerers.REQUESTER_AND_WORKERS;
        }
    }

    /** Takes one's own vote back while the decision is open. */
    public record WithdrawVote(VisitId visit) implements Command.Answering {
        @Override
        public Optional<Refusal> treat(Here here) {
            return new Voting(here).withdraw(this);
        }
    }
}
