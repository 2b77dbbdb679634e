# What can be wrong with a codebook, row by row. Every function returns a table of faults with their places, none when all is well. Rows count from
# the first item.

codebook_field_faults <- function(fields) {
  twice <- unique(fields[duplicated(fields)])
  unknown <- setdiff(fields, c(codebook_fields, ""))
  near <- vapply(unknown, did_you_mean, "", known = codebook_fields)
  fault_rows(c(
    wordings("fault_column_twice", column = twice), wordings("fault_no_field", column = unknown[near != ""], near = near[near != ""])
  ), "codebook")
}

# `text`: list of character vectors, one a field, all trimmed, "" for empty.
codebook_row_faults <- function(text) {
  row <- function(which, field, problem) {
    if (length(which) > 0) fault_rows(rep_len(problem, length(which)), "codebook", which, field = field)
  }
  low <- suppressWarnings(as.numeric(text$lowest))
  high <- suppressWarnings(as.numeric(text$highest))
  keyed <- text$answer != ""
  reversed <- text$direction == "reversed"
  labels_wrong <- vapply(text$labels, function(l) is.null(parse_labels(l)), TRUE) & text$role != "aside"
  bad <- list(
    name = which(text$item == ""),
    twice = which(duplicated(text$item) & text$item != ""),
    direction = which(!text$direction %in% c("forward", "reversed")),
    role = which(!text$role %in% c("scored", "tryout", "aside")),
    low = which(text$lowest != "" & !is.finite(low)),
    high = which(text$highest != "" & !is.finite(high)),
    order = which(is.finite(low) & is.finite(high) & low >= high),
    range = which(reversed & !keyed & text$labels == "" & (text$lowest == "" | text$highest == "")),
    labels = which(labels_wrong),
    half = which(xor(text$lowest == "", text$highest == "") & !(reversed & !keyed)),
    keyed = which(reversed & keyed),
    option = which(keyed & text$options != "" & !key_among_options(text$answer, text$options))
  )
  at <- function(field, i) text[[field]][i]
  rbind(
    row(bad$name, "item", worded("fault_no_name")),
    row(bad$twice, "item", wordings("fault_item_twice", item = at("item", bad$twice))),
    row(bad$direction, "direction", wordings("fault_direction", value = at("direction", bad$direction))),
    row(bad$role, "role", wordings("fault_role", value = at("role", bad$role))),
    row(bad$low, "lowest", wordings("fault_lowest", value = at("lowest", bad$low))),
    row(bad$high, "highest", wordings("fault_highest", value = at("highest", bad$high))),
    row(bad$order, "lowest", wordings("fault_order", lowest = at("lowest", bad$order),
      highest = at("highest", bad$order))),
    row(bad$range, "lowest", worded("fault_reversed_range")),
    row(bad$labels, "labels", worded("fault_labels")),
    row(bad$half, ifelse(at("lowest", bad$half) == "", "lowest", "highest"), worded("fault_half_range")),
    row(bad$keyed, "direction", worded("fault_test_reversed")),
    row(bad$option, "answer", wordings("fault_answer_option", answer = at("answer", bad$option)))
  )
}

key_among_options <- function(answer, options) {
  mapply(
    function(a, o) all(strsplit(a, "[[:space:]]+")[[1]] %in% strsplit(o, "[[:space:]]+")[[1]]),
    answer, options
  )
}
