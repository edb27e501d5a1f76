/** Keeps our tickets and those at partners' desks the same (I15, I16). */
@org.jspecify.annotations.NullMarked
package dastur.server.partners;
