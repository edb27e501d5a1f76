/** The notation: the text form of a whole workflow, and the sentences that make single steps (N27, N28). */
@org.jspecify.annotations.NullMarked
package dastur.core.notation;
