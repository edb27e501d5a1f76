package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.expression.Expressions;
import dastur.core.people.Group;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

class LookupsTest {
    private static final LookupKey KEY = new LookupKey.OfGroup(World.MANAGERS);

    private static Group named(String name) {
        return new Group(World.MANAGERS, name, List.of(World.TEO));
    }

    @Test
    void whatIsLoadedForADecisionWinsOverWhatIsRemembered() {
        Lookups lookups =
                new Lookups(Map.of(KEY, Optional.of(named("before"))), Map.of(KEY, Optional.of(named("now"))));
        assertThat(lookups.group(World.MANAGERS)).map(Group::name).contains("now");
    }

    @Test
    void whatIsRememberedIsFoundAlsoWhenItCameLaterAndElseIsAskedFor() {
        Map<LookupKey, Optional<?>> remembered = new HashMap<>();
        Lookups lookups = new Lookups(remembered, Map.of());
        assertThatThrownBy(() -> lookups.group(World.MANAGERS))
                .isInstanceOfSatisfying(
                        Lookups.Missing.class, m -> assertThat(m.keys).containsExactly(KEY));
        remembered.put(KEY, Optional.of(named("later")));
        assertThat(lookups.group(World.MANAGERS)).map(Group::name).contains("later");
    }

    @Test
    void expressionsAreCompiledOnceForAVersionAndAnewWhenAnActionOfItHasChanged() {
        World world = new World();
        Engine engine = new Engine();
        WorkflowVersion version = World.gateWorkflow(new ApprovalRule.AnyOne());
        LookupKey action = new LookupKey.PinnedAction(new ActionKey("close-lane"), version.key(), version.number());
        world.put(action, World.closeLane(Action.Repeat.KEYED));
        Action changed = World.closeLane(Action.Repeat.NEVER);

        Expressions first = engine.expressions(version, world.lookups());
        Lookups after = new Lookups(world.values, Map.of(action, Optional.of(changed)));
        assertThat(engine.expressions(version, world.lookups())).isSameAs(first);
        assertThat(engine.expressions(version, after)).isNotSameAs(first);
        assertThat(engine.expressions(version, world.lookups())).isSameAs(first);

        WorkflowVersion loadedAnew = World.gateWorkflow(new ApprovalRule.AnyOne());
        assertThat(loadedAnew).isNotSameAs(version).isEqualTo(version);
        assertThat(engine.expressions(loadedAnew, world.lookups())).isSameAs(first);
    }
}
