/** Another organisation's ticket desk that ours is joined to: how its tickets are read, and what follows where both sides change (I15, I16). */
@org.jspecify.annotations.NullMarked
package dastur.core.partner;
