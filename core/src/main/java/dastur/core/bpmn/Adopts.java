package dastur.core.bpmn;

import com.fasterxml.jackson.databind.node.ObjectNode;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A kind whose settings say in our words what the standard says on the ways that leave it. */
public interface Adopts {
    /** Takes into what we wrote what another program has changed on its ways. */
    void adopt(ObjectNode own, List<Way> leaving);

    /** A way as a file has it. */
    record Way(@Nullable String exit, @Nullable String condition) {
        /** Whether the condition says something else than what we wrote. */
        public boolean saysOtherThan(String own) {
            return condition != null && !BpmnReader.same(condition, own);
        }
    }
}
