package dastur.core.run;

import dastur.core.people.PersonId;

/** A kind of step whose visits listen to what people write on the ticket. */
public interface Hears {
    void written(PersonId by, String text, Here here);
}
