package dastur.core.step.approval;

import com.fasterxml.jackson.annotation.JsonInclude;
import dastur.core.people.Party;
import dastur.core.time.Span;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Known;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * People are asked for a decision (N12).
 *
 * @param question text with {@code {{ }}}: what is asked
 * @param setsOff what a yes sets off, for the button: "close the lane"
 * @param asked whose members form the electorate
 * @param notDoersOf steps whose doers may not vote
 * @param shown paths of the fields shown and bound to the decision, such as {@code ticket.ci} (D18)
 */
public record Approval(
        StepId id,
        String name,
        @Nullable String question,
        @Nullable String setsOff,
        List<Party> asked,
        ApprovalRule rule,
        boolean notRequester,
        @Nullable List<StepId> notDoersOf,
        List<String> shown,
        boolean commentOnDecline,
        @Nullable Span within,
        @Nullable LadderKey ladder,
        Map<String, StepId> ways,
        @Nullable String expected,
        @Nullable Terms terms)
        implements Step.InRoom {
    /**
     * Finer terms of a vote.
     *
     * @param veto those whose no ends it at once, whatever the rule
     * @param commentAlways whether a yes needs a comment as well as a no
     * @param mayAddConditions whether a yes may carry a condition, such as "gates 3 and 4 only"
     * @param without those who may not vote although they are asked, such as who implements the change
     */
    public record Terms(
            List<Party> veto,
            boolean commentAlways,
            boolean mayAddConditions,
            @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Party> without) {
        /** None. */
        public static final Terms PLAIN = new Terms(List.of(), false, false);

        /** With nobody left out. */
        public Terms(List<Party> veto, boolean commentAlways, boolean mayAddConditions) {
            this(veto, commentAlways, mayAddConditions, List.of());
        }

        public Terms {
            veto = veto == null ? List.of() : List.copyOf(veto);
            without = without == null ? List.of() : List.copyOf(without);
        }
    }

    /** On plain terms. */
    public Approval(
            StepId id,
            String name,
            @Nullable String question,
            @Nullable String setsOff,
            List<Party> asked,
            ApprovalRule rule,
            boolean notRequester,
            @Nullable List<StepId> notDoersOf,
            List<String> shown,
            boolean commentOnDecline,
            @Nullable Span within,
            @Nullable LadderKey ladder,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(
                id,
                name,
                question,
                setsOff,
                asked,
                rule,
                notRequester,
                notDoersOf,
                shown,
                commentOnDecline,
                within,
                ladder,
                ways,
                expected,
                null);
    }

    public Approval {
        terms = Terms.PLAIN.equals(terms) ? null : terms;
        asked = List.copyOf(asked);
        notDoersOf = notDoersOf == null ? null : List.copyOf(notDoersOf);
        shown = List.copyOf(shown);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("approved", "declined");
    }

    @Override
    public List<String> optionalExits() {
        return List.of("lapsed");
    }
}
