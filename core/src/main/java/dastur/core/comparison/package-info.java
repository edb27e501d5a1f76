/** What was measured, side by side: what differs between two passages through steps, or between two CIs (N52, M18). */
@org.jspecify.annotations.NullMarked
package dastur.core.comparison;
