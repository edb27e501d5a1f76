/** Spans, working calendars: time as an argument, never as a clock. */
@org.jspecify.annotations.NullMarked
package dastur.core.time;
