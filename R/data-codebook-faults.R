# What can be wrong with a codebook, row by row. Every function returns a table of faults with their places, none when all is well. Rows count from
# the first item.

codebook_field_faults <- function(fields) {
  twice <- unique(fields[duplicated(fields)])
  unknown <- setdiff(fields, c(codebook_fields, ""))
  near <- vapply(unknown, did_you_mean, "", known = codebook_fields)
  fault_rows(c(
    paste0("column ", quoted(twice), " stands twice", recycle0 = TRUE),
    paste0("column ", quoted(unknown[near != ""]), " is not a field of a codebook", near[near != ""], recycle0 = TRUE)
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
    row(bad$name, "item", "the item has no name"),
    row(bad$twice, "item", paste0("item ", quoted(at("item", bad$twice)), " stands twice")),
    row(bad$direction, "direction", paste0("direction ", quoted(at("direction", bad$direction)), " is neither forward nor reversed")),
    row(bad$role, "role", paste0("role ", quoted(at("role", bad$role)), " is not scored, tryout or aside")),
    row(bad$low, "lowest", paste0("lowest ", quoted(at("lowest", bad$low)), " is not a number")),
    row(bad$high, "highest", paste0("highest ", quoted(at("highest", bad$high)), " is not a number")),
    row(bad$order, "lowest", paste0("lowest ", at("lowest", bad$order), " is not below highest ", at("highest", bad$order))),
    row(bad$range, "lowest", "a reversed item needs lowest and highest"),
    row(bad$labels, "labels", "labels cannot be read; write them as `1 = Never; 2 = Often`"),
    row(bad$half, ifelse(at("lowest", bad$half) == "", "lowest", "highest"), "lowest and highest go together; one is empty"),
    row(bad$keyed, "direction", "a test item with a right answer cannot be reversed"),
    row(bad$option, "answer", paste0("the right answer ", quoted(at("answer", bad$option)), " is not among the options"))
  )
}

key_among_options <- function(answer, options) {
  mapply(
    function(a, o) all(strsplit(a, "[[:space:]]+")[[1]] %in% strsplit(o, "[[:space:]]+")[[1]]),
    answer, options
  )
}
