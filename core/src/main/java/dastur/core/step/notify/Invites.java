package dastur.core.step.notify;

import dastur.core.workflow.StepId;
import org.jspecify.annotations.Nullable;

/**
 * A message is an invitation that calendars understand (RFC 5546), or calls an earlier one off.
 *
 * @param from an expression for when it begins; null where it is called off
 * @param until an expression for when it ends; null where it is called off
 * @param place a text with {@code {{ }}}; null for none
 * @param off the step whose invitation is called off; null where this one invites
 */
public record Invites(
        @Nullable String from,
        @Nullable String until,
        @Nullable String place,
        @Nullable StepId off) {}
