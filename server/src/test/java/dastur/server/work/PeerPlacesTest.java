package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Places for calls (W1): however many peers do not answer, another finds one. */
class PeerPlacesTest {
    @ParameterizedTest
    @CsvSource({"1000, 16", "501, 16", "500, 4", "251, 4", "250, 1", "1, 1", "0, 1"})
    void theFewerAreFreeTheFewerEachMayHave(int free, int each) {
        assertThat(PeerPlaces.each(free)).isEqualTo(each);
    }

    /** Each slow peer has more waiting than it may have, and never gives a place back. */
    @ParameterizedTest
    @ValueSource(ints = {1, 30, 200, 300})
    void aPeerThatIsQuickFindsAPlaceWhileManyAreSlow(int slow) {
        PeerPlaces peers = new PeerPlaces();
        List<String> all = IntStream.range(0, slow).mapToObj(i -> "slow-" + i).toList();
        int underWay = 0;
        List<String> may = all;
        while (!may.isEmpty()) {
            int each = PeerPlaces.each(PeerPlaces.ALL - underWay);
            may = new ArrayList<>(all);
            may.removeAll(peers.busy(each));
            // At its worst all that is taken at once is one peer's.
            int taken = may.isEmpty() ? 0 : Math.min(PeerPlaces.ALL - underWay, each);
            for (int i = 0; i < taken; i++) {
                peers.begin(may.getFirst());
            }
            underWay += taken;
        }
        assertThat(underWay).isLessThan(PeerPlaces.ALL);
        assertThat(peers.busy(1)).hasSize(slow).doesNotContain("quick");
        peers.begin("quick");
        assertThat(peers.busy(1)).contains("quick");
        peers.end("quick");
        assertThat(peers.busy(1)).doesNotContain("quick");
    }
}
