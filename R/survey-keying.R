# Reversal: what a reversed item's answer counts as, here and nowhere else. Test items are scored by their right
# answer and cannot be reversed.

turn_round <- function(values, specs) turn_sum(specs) - values

# What the codebook says of items that a solution rests on, so that others are scored as it was made: a data frame, or NULL.
keying_behind <- function(x, items) {
  if (!has_answers(x)) {
    return(if (!is.null(x$keying)) x$keying[match(items, x$keying$item), ])
  }
  specs <- item_spec(x, items)
  data.frame(item = items, turned = is_turned(specs), lowest = specs$lowest, highest = specs$highest, answer = specs$answer)
}

# The survey keyed as a solution was, and which of its items its own codebook keys the other way: list(survey, turned). Items that were answered on
# another range, or scored by another right answer, cannot be brought there.
keyed_as <- function(survey, keying) {
  own <- keying_behind(survey, keying$item)
  differs <- function(a, b) !is.na(a) & !is.na(b) & a != b
  range <- differs(own$lowest, keying$lowest) | differs(own$highest, keying$highest)
  key <- differs(own$answer, keying$answer) | is.na(own$answer) != is.na(keying$answer)
  if (any(range | key)) {
    stop_input(message_of("e_solution_was_made"), faults = c(messages_of("other_range_there", item = own$item[range],
      low = keying$lowest[range], high = keying$highest[range], low_here = own$lowest[range], high_here = own$highest[range]),
      messages_of("other_right_answer", item = own$item[key & !range])),
        hint = message_of("e_make_codebooks_say"))
  }
  turned <- own$item[own$turned != keying$turned]
  specs <- survey$codebook$items
  at <- match(turned, specs$item)
  survey$codebook$items$direction[at] <- other_direction(specs$direction[at])
  list(survey = survey, turned = turned)
}

# The other way, as codebooks write it.
other_direction <- function(direction) ifelse(direction == "forward", "reversed", "forward")
