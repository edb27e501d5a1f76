package dastur.core.run;

/**
 * Where inside a bracket something stands: in which visit of it, and in which of its lanes or items (D9). Nothing at the
 * top level has a place.
 *
 * @param index the lane or item, from 0
 */
public record Place(VisitId bracket, int index) implements Comparable<Place> {
    @Override
    public int compareTo(Place other) {
        int byBracket = bracket.compareTo(other.bracket);
        return byBracket != 0 ? byBracket : Integer.compare(index, other.index);
    }

    /** The key of the values kept for it. */
    String scope() {
        return bracket + "/" + index;
    }
}
