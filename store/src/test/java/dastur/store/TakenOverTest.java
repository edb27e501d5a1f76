package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Objects;
import java.util.zip.GZIPInputStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A folder that a release with H2 2.5.252 has written, which this one no longer uses. */
class TakenOverTest {
    @TempDir
    Path folder;

    @Test
    void aFolderBegunWithTheNewerDatabaseIsTakenOverWithWhatIsInIt() throws Exception {
        try (InputStream kept = new GZIPInputStream(
                Objects.requireNonNull(getClass().getResourceAsStream("begun-by-2.5.252.mv.db.gz")))) {
            Files.copy(kept, folder.resolve(Database.FILE));
        }
        for (int opening = 1; opening <= 2; opening++) {
            try (Database database = Database.inFolder(folder)) {
                Organisation organisation = new Organisation(database);
                assertThat(organisation.people()).hasSize(40);
                organisation.putPerson(organisation.person(new PersonId("p7")).orElseThrow(), null);
            }
        }
    }
}
