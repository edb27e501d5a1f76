/** Running other workflows, here and on other tickets. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.call;
