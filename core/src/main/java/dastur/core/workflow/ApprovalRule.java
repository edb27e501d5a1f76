package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;

/** How many of the electorate must say yes (D20). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "rule")
@JsonSubTypes({
    @JsonSubTypes.Type(value = ApprovalRule.AnyOne.class, name = "any one"),
    @JsonSubTypes.Type(value = ApprovalRule.Everyone.class, name = "everyone"),
    @JsonSubTypes.Type(value = ApprovalRule.AtLeast.class, name = "at least"),
    @JsonSubTypes.Type(value = ApprovalRule.Majority.class, name = "majority"),
    @JsonSubTypes.Type(value = ApprovalRule.Share.class, name = "share"),
    @JsonSubTypes.Type(value = ApprovalRule.OneFromEach.class, name = "one from each"),
    @JsonSubTypes.Type(value = ApprovalRule.InSequence.class, name = "in sequence")
})
public sealed interface ApprovalRule {
    /** The number of yes votes needed from an electorate of a size. */
    int needed(int electorate);

    /** The first vote decides. */
    record AnyOne() implements ApprovalRule {
        @Override
        public int needed(int electorate) {
            return 1;
        }
    }

    /** All must say yes. */
    record Everyone() implements ApprovalRule {
        @Override
        public int needed(int electorate) {
            return electorate;
        }
    }

    /** More than half of the electorate must say yes. */
    record Majority() implements ApprovalRule {
        @Override
        public int needed(int electorate) {
            return electorate / 2 + 1;
        }
    }

    /** A share of the electorate must say yes, rounded up. @param percent from 1 to 100 */
    record Share(int percent) implements ApprovalRule {
        public Share {
            if (percent < 1 || percent > 100) {
                throw new IllegalArgumentException(
                        "The share that must approve is between 1 and 100 percent, but was " + percent + ".");
            }
        }

        @Override
        public int needed(int electorate) {
            return Math.max(1, (electorate * percent + 99) / 100);
        }
    }

    /** One from each of those named must say yes, each another person (D20). How many that are is known by the step. */
    record OneFromEach() implements ApprovalRule {
        @Override
        public int needed(int electorate) {
            return 1;
        }
    }

    /** One from each of those named must say yes, in the order in which they are named: the next is asked after a yes. */
    record InSequence() implements ApprovalRule {
        @Override
        public int needed(int electorate) {
            return 1;
        }
    }

    /** A number must say yes. */
    record AtLeast(int count) implements ApprovalRule {
        public AtLeast {
            if (count < 1 || count > 1000) {
                throw new IllegalArgumentException(
                        "At least how many must approve is between 1 and 1000, but was " + count + ".");
            }
        }

        @Override
        public int needed(int electorate) {
            return count;
        }
    }
}
