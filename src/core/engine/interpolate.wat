;; Reads samples at fractional positions by a filter that is kept in phases: four taps of two channels at once, which plain code
;; cannot do. All addresses come with the call.
(module
  (memory (export "memory") 4)
  (func (export "interpolate")
    (param $rows i32)          ;; phases + 1 rows of `width` taps
    (param $width i32)         ;; bytes of one row; a multiple of 32
    (param $phases i32)
    (param $channels i32)
    (param $source i32)        ;; the first frame that the filter may touch
    (param $sourceStride i32)  ;; bytes from channel to channel
    (param $out i32)
    (param $outStride i32)
    (param $count i32)
    (param $position f64)      ;; frames from the first one, less the reach of the filter
    (param $step f64)
    (local $i i32) (local $c i32) (local $tap i32) (local $low i32) (local $row i32) (local $next i32) (local $first i32)
    (local $left i32) (local $right i32) (local $to i32) (local $at f64) (local $whole i32) (local $place f64)
    (local $rest f64) (local $between i32)
    (local $share v128) (local $taps v128)
    (local $leftSum v128) (local $rightSum v128) (local $leftRest v128) (local $rightRest v128)
    (loop $frame
      (if (i32.ge_s (local.get $i) (local.get $count)) (then (return)))
      ;; No position lies before the first frame, so that leaving off what is behind the point is rounding down.
      (local.set $at (f64.add (local.get $position) (f64.mul (f64.convert_i32_s (local.get $i)) (local.get $step))))
      (local.set $whole (i32.trunc_f64_s (local.get $at)))
      (local.set $place
        (f64.mul (f64.sub (local.get $at) (f64.convert_i32_s (local.get $whole))) (f64.convert_i32_s (local.get $phases))))
      ;; What is off a phase by no more than reckoning leaves lies on it; one below a frame may lie on the last row.
      (local.set $low (i32.trunc_f64_s (f64.add (local.get $place) (f64.const 1e-6))))
      (local.set $rest (f64.sub (local.get $place) (f64.convert_i32_s (local.get $low))))
      (local.set $between (f64.gt (local.get $rest) (f64.const 1e-6)))
      (local.set $share (f32x4.splat (f32.demote_f64 (local.get $rest))))
      (local.set $first
        (i32.add (local.get $source) (i32.shl (local.get $whole) (i32.const 2))))
      (local.set $to (i32.add (local.get $out) (i32.shl (local.get $i) (i32.const 2))))
      (local.set $c (i32.const 0))
      (loop $pair
        (local.set $row (i32.add (local.get $rows) (i32.mul (local.get $low) (local.get $width))))
        (local.set $next (i32.add (local.get $row) (local.get $width)))
        (local.set $left (i32.add (local.get $first) (i32.mul (local.get $c) (local.get $sourceStride))))
        ;; The last one of an odd number is reckoned twice.
        (local.set $right
          (select
            (i32.add (local.get $left) (local.get $sourceStride))
            (local.get $left)
            (i32.lt_s (i32.add (local.get $c) (i32.const 1)) (local.get $channels))))
        (local.set $leftSum (f32x4.splat (f32.const 0)))
        (local.set $rightSum (f32x4.splat (f32.const 0)))
        (local.set $leftRest (f32x4.splat (f32.const 0)))
        (local.set $rightRest (f32x4.splat (f32.const 0)))
        (local.set $tap (local.get $width))
        (if (local.get $between)
          (then
            (loop $along
              (local.set $taps (v128.load (local.get $row)))
              (local.set $taps
                (f32x4.add (local.get $taps)
                  (f32x4.mul (local.get $share) (f32x4.sub (v128.load (local.get $next)) (local.get $taps)))))
              (local.set $leftSum
                (f32x4.add (local.get $leftSum) (f32x4.mul (local.get $taps) (v128.load (local.get $left)))))
              (local.set $rightSum
                (f32x4.add (local.get $rightSum) (f32x4.mul (local.get $taps) (v128.load (local.get $right)))))
              (local.set $taps (v128.load offset=16 (local.get $row)))
              (local.set $taps
                (f32x4.add (local.get $taps)
                  (f32x4.mul (local.get $share)
                    (f32x4.sub (v128.load offset=16 (local.get $next)) (local.get $taps)))))
              (local.set $leftRest
                (f32x4.add (local.get $leftRest)
                  (f32x4.mul (local.get $taps) (v128.load offset=16 (local.get $left)))))
              (local.set $rightRest
                (f32x4.add (local.get $rightRest)
                  (f32x4.mul (local.get $taps) (v128.load offset=16 (local.get $right)))))
              (local.set $row (i32.add (local.get $row) (i32.const 32)))
              (local.set $next (i32.add (local.get $next) (i32.const 32)))
              (local.set $left (i32.add (local.get $left) (i32.const 32)))
              (local.set $right (i32.add (local.get $right) (i32.const 32)))
              (br_if $along (local.tee $tap (i32.sub (local.get $tap) (i32.const 32))))))
          (else
            ;; On a phase the taps are there as they are: between the usual rates this is so everywhere.
            (loop $plain
              (local.set $taps (v128.load (local.get $row)))
              (local.set $leftSum
                (f32x4.add (local.get $leftSum) (f32x4.mul (local.get $taps) (v128.load (local.get $left)))))
              (local.set $rightSum
                (f32x4.add (local.get $rightSum) (f32x4.mul (local.get $taps) (v128.load (local.get $right)))))
              (local.set $taps (v128.load offset=16 (local.get $row)))
              (local.set $leftRest
                (f32x4.add (local.get $leftRest)
                  (f32x4.mul (local.get $taps) (v128.load offset=16 (local.get $left)))))
              (local.set $rightRest
                (f32x4.add (local.get $rightRest)
                  (f32x4.mul (local.get $taps) (v128.load offset=16 (local.get $right)))))
              (local.set $row (i32.add (local.get $row) (i32.const 32)))
              (local.set $left (i32.add (local.get $left) (i32.const 32)))
              (local.set $right (i32.add (local.get $right) (i32.const 32)))
              (br_if $plain (local.tee $tap (i32.sub (local.get $tap) (i32.const 32)))))))
        ;; Both sums at once: their lanes side by side, halves upon each other.
        (local.set $leftSum (f32x4.add (local.get $leftSum) (local.get $leftRest)))
        (local.set $rightSum (f32x4.add (local.get $rightSum) (local.get $rightRest)))
        (local.set $taps
          (f32x4.add
            (i8x16.shuffle 0 1 2 3 16 17 18 19 4 5 6 7 20 21 22 23 (local.get $leftSum) (local.get $rightSum))
            (i8x16.shuffle 8 9 10 11 24 25 26 27 12 13 14 15 28 29 30 31 (local.get $leftSum) (local.get $rightSum))))
        (local.set $taps
          (f32x4.add (local.get $taps)
            (i8x16.shuffle 8 9 10 11 12 13 14 15 8 9 10 11 12 13 14 15 (local.get $taps) (local.get $taps))))
        (f32.store (local.get $to) (f32x4.extract_lane 0 (local.get $taps)))
        (local.set $to (i32.add (local.get $to) (local.get $outStride)))
        (local.set $c (i32.add (local.get $c) (i32.const 2)))
        (if (i32.le_s (local.get $c) (local.get $channels))
          (then
            (f32.store (local.get $to) (f32x4.extract_lane 1 (local.get $taps)))
            (local.set $to (i32.add (local.get $to) (local.get $outStride)))))
        (br_if $pair (i32.lt_s (local.get $c) (local.get $channels))))
      (local.set $i (i32.add (local.get $i) (i32.const 1)))
      (br $frame))))
