/** What others are told of what happens here: who subscribes to what, and what is done where they do not take it (I17). */
@org.jspecify.annotations.NullMarked
package dastur.core.feed;
