/** Findings: faults and advice about a workflow, found before it runs (N24). */
@org.jspecify.annotations.NullMarked
package dastur.core.finding;
