package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;

/** How many of the electorate must say yes (D20). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "rule")
@JsonSubTypes({
    @JsonSubTypes.Type(value = ApprovalRule.AnyOne.class, name = "any one"),
    @JsonSubTypes.Type(value = ApprovalRule.Everyone.class, name = "everyone"),
    @JsonSubTypes.Type(value = ApprovalRule.AtLeast.class, name = "at least")
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
