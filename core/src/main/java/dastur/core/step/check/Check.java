package dastur.core.step.check;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.people.Party;
import dastur.core.run.RuleSeen;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Judges measurements and values by rules, each with its numbers (N22).
 *
 * @param measure an action taken before each judging, whose outputs rules read as {@code measured.*}; null for none
 * @param inputs an expression for each input of that action
 * @param settle how long it may take until the rules hold; null to judge once
 * @param every how long between two judgings while it settles
 * @param review who looks at a check that does not hold: accepts with a reason, has it measured again, or puts back
 */
public record Check(
        StepId id,
        String name,
        List<Rule> rules,
        @Nullable ActionKey measure,
        Map<String, String> inputs,
        @Nullable Span settle,
        @Nullable Span every,
        @Nullable Party review,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    public Check {
        rules = List.copyOf(rules);
        inputs = Step.ordered(inputs == null ? Map.of() : inputs);
        ways = Step.ordered(ways);
    }

    /** How a value is compared. */
    public enum Compare {
        /** As it was before, or as expected. */
        EQUAL("is", true),
        /** Another than it was before. */
        DIFFERENT("is not", true),
        /** Less than a share away from what it was before: the limit is the share in percent. */
        WITHIN("within", true),
        ABOVE("above", true),
        AT_LEAST("at least", true),
        BELOW("below", true),
        AT_MOST("at most", true),
        CONTAINS("contains", true),
        /** The value itself is a condition. */
        HOLDS("holds", false);

        private final String word;
        private final boolean against;

        Compare(String word, boolean against) {
            this.word = word;
            this.against = against;
        }

        @JsonValue
        public String word() {
            return word;
        }

        /** Whether it compares with a second value. */
        public boolean needsAgainst() {
            return against;
        }
    }

    /**
     * One rule.
     *
     * @param value an expression: what is judged
     * @param against an expression: what it is compared with; null where the comparison needs none
     * @param share for {@link Compare#WITHIN}: how far away it may be, in percent of {@code against}
     * @param capture the step whose age counts; null for none
     * @param maxAge how old that measurement may be
     * @param after the step after which that measurement must have been taken
     */
    public record Rule(
            String name,
            String value,
            Compare compare,
            @Nullable String against,
            @Nullable Double share,
            RuleSeen.@Nullable Sense sense,
            @Nullable StepId capture,
            @Nullable Span maxAge,
            @Nullable StepId after) {
        public Rule {
            sense = sense == null ? RuleSeen.Sense.TURN_GOOD : sense;
        }
    }

    /** The same, judged once and never holding: for seeing what happens then. */
    public Check neverHolding() {
        Rule none = new Rule("As if it did not hold", "false", Compare.HOLDS, null, null, null, null, null, null);
        return new Check(id, name, List.of(none), null, Map.of(), null, null, review, ways, expected);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("pass", "fail");
    }

    @Override
    public List<String> optionalExits() {
        return review == null ? List.of() : List.of("measure again", "put back");
    }
}
