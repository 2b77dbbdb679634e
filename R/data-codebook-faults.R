# What can be wrong with a codebook, row by row. Every function returns
# sentences, none when all is well. Rows count from the first item.

codebook_field_faults <- function(fields) {
  twice <- unique(fields[duplicated(fields)])
  unknown <- setdiff(fields, c(codebook_fields, ""))
  c(
    if (length(twice) > 0) paste0("column ", quoted(twice), " stands twice"),
    vapply(unknown, function(field) {
      near <- did_you_mean(field, codebook_fields)
      if (near == "") "" else paste0("column ", quoted(field), " is not a field of a codebook", near)
    }, "")
  ) |>
    Filter(f = nzchar) |>
    unname()
}

# `text`: list of character vectors, one a field, all trimmed, "" for empty.
codebook_row_faults <- function(text) {
  row <- function(which, problem) {
    if (length(which) == 0) character() else paste0("row ", which, ": ", problem)
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
  c(
    row(bad$name, "the item has no name"),
    row(bad$twice, paste0("item ", quoted(at("item", bad$twice)), " stands twice")),
    row(bad$direction, paste0("direction ", quoted(at("direction", bad$direction)), " is neither forward nor reversed")),
    row(bad$role, paste0("role ", quoted(at("role", bad$role)), " is not scored, tryout or aside")),
    row(bad$low, paste0("lowest ", quoted(at("lowest", bad$low)), " is not a number")),
    row(bad$high, paste0("highest ", quoted(at("highest", bad$high)), " is not a number")),
    row(bad$order, paste0("lowest ", at("lowest", bad$order), " is not below highest ", at("highest", bad$order))),
    row(bad$range, "a reversed item needs lowest and highest"),
    row(bad$labels, "labels cannot be read; write them as `1 = Never; 2 = Often`"),
    row(bad$half, "lowest and highest go together; one is empty"),
    row(bad$keyed, "a test item with a right answer cannot be reversed"),
    row(bad$option, paste0("the right answer ", quoted(at("answer", bad$option)), " is not among the options"))
  )
}

key_among_options <- function(answer, options) {
  mapply(
    function(a, o) all(strsplit(a, "[[:space:]]+")[[1]] %in% strsplit(o, "[[:space:]]+")[[1]]),
    answer, options
  )
}
