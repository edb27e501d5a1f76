package dastur.core.step.approval;

import dastur.core.people.PersonId;
import java.util.List;

/**
 * Finer terms of a vote, with the people of the day.
 *
 * @param inOrder whether the sets are asked one after the other
 * @param veto those whose no ends it at once
 * @param commentAlways whether a yes needs a comment as well
 * @param mayAddConditions whether a yes may carry a condition
 */
public record VoteTerms(boolean inOrder, List<PersonId> veto, boolean commentAlways, boolean mayAddConditions) {
    /** None. */
    static final VoteTerms PLAIN = new VoteTerms(false, List.of(), false, false);
}
