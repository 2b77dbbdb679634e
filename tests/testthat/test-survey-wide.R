# Waves side by side, and below each other.

beside <- data.frame(
  code = c("k1", "k2", "k3", "k4"), site = c("a", "a", "b", "b"), mood1_t1 = c(1, 2, 3, 4), mood2_t1 = c(2, 2, 3, 5), mood3_t1 = c(5, 4, 3, 2),
  mood1_t2 = c(2, NA, 4, 4), mood2_t2 = c(3, NA, 4, NA), mood3_t2 = c(4, NA, 2, 1), extra_t2 = c(9, NA, 8, 7)
)

test_that("waves side by side go below each other and back, and who lacks one is listed", {
  below <- sw_waves(beside, suffix = "_t{wave}", id = "code")
  expect_equal(below$code, c("k1", "k1", "k2", "k3", "k3", "k4", "k4"))
  expect_equal(below$wave, c("1", "2", "1", "1", "2", "1", "2"))
  expect_equal(below$mood1, c(1, 2, 2, 3, 4, 4, 4))
  expect_equal(below$extra, c(NA, 9, NA, NA, 8, NA, 7))
  expect_equal(below$site, c("a", "a", "a", "b", "b", "b", "b"))
  expect_equal(attr(below, "unmatched"), data.frame(person = "k2", absent = "2"))
  back <- sw_waves(below, suffix = "_t{wave}", to = "wide", id = "code", wave = "wave")
  expect_equal(as.data.frame(back)[names(beside)], beside, ignore_attr = TRUE)
  expect_equal(attr(back, "unmatched"), data.frame(person = "k2", absent = "2"))
  before <- stats::setNames(beside, sub("(.*)_t([12])", "t\\2.\\1", names(beside)))
  expect_equal(sw_waves(before, prefix = "t{wave}.", id = "code"), below)
  expect_error(sw_waves(rbind(below, below[1, ]), to = "wide", id = "code", wave = "wave"), "row 8: k1 stands in wave 1 already",
    class = "scalewort_error_input")
  expect_error(sw_waves(beside, suffix = "_w{wave}"), "No column is", class = "scalewort_error_input")
  expect_error(sw_waves(beside, suffix = "_t"), "\\{wave\\} once", class = "scalewort_error_input")
})

test_that("the ways that columns of waves are called are found, and no other", {
  find <- core("find_wide")
  items <- c("mood1", "mood2", "calm1", "calm2")
  both <- function(make) c("id", "age", unlist(lapply(items, make)))
  expect_equal(find(both(function(i) paste0(i, "_t", 1:3))), "{item}_t{wave}")
  expect_equal(find(both(function(i) paste0("T", 0:1, "_", i))), "T{wave}_{item}")
  expect_equal(find(both(function(i) paste0(i, ".wave", 1:2))), "{item}.wave{wave}")
  expect_equal(find(both(function(i) paste0(i, "_", c("pre", "post")))), "{item}_{wave}")
  expect_null(find(c("best1", "best2", "fast1", "fast2", "test1", "test2", "Q4_1", "Q4_2", "Q5_1", "Q5_2", "Q6_1", "Q6_2")))
  expect_null(find(c("a_t1", "b_t1", "c_t1", "d", "e")))
  expect_equal(core("ordered_waves")(c("post", "pre", "followup")), c("pre", "post", "followup"))
  expect_equal(core("ordered_waves")(c("10", "2", "1")), c("1", "2", "10"))
})

test_that("a survey takes waves side by side, turns, and turns back", {
  book <- data.frame(item = c("mood1", "mood2", "mood3"), scale = "mood", direction = c("forward", "forward", "reversed"), lowest = 1, highest = 5)
  survey <- sw_survey(beside, book, id = "code", wide = "{item}_t{wave}")
  expect_equal(unname(survey$answers$mood1), c(1, 2, 2, 3, 4, 4, 4))
  expect_equal(survey$waves, c("1", "2"))
  expect_equal(survey$unmatched$person, "k2")
  expect_match(paste(format(survey), collapse = " "), "1 person is not in every wave")
  expect_match(paste(sw_log(survey)$detail, collapse = " "), "1 (4) and 2 (3) people, in this order; 3 people are in all of them", fixed = TRUE)
  wide_book <- do.call(rbind, lapply(1:2, function(w) transform(book, item = paste0(item, "_t", w), scale = paste0("mood_t", w))))
  wide <- sw_survey(beside, wide_book, id = "code")
  long <- sw_waves(wide, suffix = "_t{wave}")
  expect_equal(long$codebook$items[c("item", "scale", "direction")], survey$codebook$items[c("item", "scale", "direction")])
  expect_equal(tidy(sw_score(long)), tidy(sw_score(survey)))
  again <- sw_waves(long, suffix = "_t{wave}", to = "wide")
  expect_equal(tidy(sw_score(again), "scores")[c("mood_t1_mean", "mood_t2_mean")], tidy(sw_score(wide), "scores")[c("mood_t1_mean", "mood_t2_mean")])
  wide_book$direction[6] <- "forward"
  expect_error(sw_waves(sw_survey(beside, wide_book, id = "code"), suffix = "_t{wave}"), "one thing of mood3", class = "scalewort_error_input")
  expect_error(sw_survey(beside, book, id = "code"), "wide = \"\\{item\\}_t\\{wave\\}\"", class = "scalewort_error_input")
  few <- sw_waves(sw_drop(wide, cases = "k4", reason = "withdrew"), suffix = "_t{wave}")
  expect_equal(tidy(sw_score(few), "scores")$code, c("k1", "k1", "k2", "k3", "k3"))
})

test_that("a file for each wave is matched by identifier", {
  first <- data.frame(code = c(3, 1, 2), a = 1:3)
  second <- data.frame(code = c(2, 4), a = c(5, 6), b = c(1, 2))
  both <- sw_waves(list(pre = first, post = second), id = "code")
  expect_equal(both$wave, rep(c("pre", "post"), c(3, 2)))
  expect_equal(both$b, c(NA, NA, NA, 1, 2))
  expect_equal(attr(both, "unmatched"), data.frame(person = c("3", "1", "4"), absent = c("post", "post", "pre")))
  expect_error(sw_waves(list(pre = first, post = rbind(second, second)), id = "code"), "stands in wave post already", class = "scalewort_error_input")
})
