;; Reads samples at fractional positions by a filter that is kept in phases: four taps at once, which plain code cannot do.
;; The taps of one position lie at address 0; all other addresses come with the call.
(module
  (memory (export "memory") 4)
  (func (export "interpolate")
    (param $rows i32)          ;; phases + 1 rows of `width` taps
    (param $width i32)         ;; bytes of one row; a multiple of 16
    (param $phases i32)
    (param $channels i32)
    (param $source i32)        ;; the first frame that the filter may touch
    (param $sourceStride i32)  ;; bytes from channel to channel
    (param $out i32)
    (param $outStride i32)
    (param $count i32)
    (param $position f64)      ;; frames from the first one, less the reach of the filter
    (param $step f64)
    (local $i i32) (local $c i32) (local $tap i32) (local $low i32) (local $row i32) (local $first i32)
    (local $from i32) (local $at f64) (local $whole f64) (local $place f64)
    (local $share v128) (local $taps v128) (local $sum v128)
    (loop $frame
      (if (i32.ge_s (local.get $i) (local.get $count)) (then (return)))
      (local.set $at (f64.add (local.get $position) (f64.mul (f64.convert_i32_s (local.get $i)) (local.get $step))))
      (local.set $whole (f64.floor (local.get $at)))
      (local.set $place
        (f64.mul (f64.sub (local.get $at) (local.get $whole)) (f64.convert_i32_s (local.get $phases))))
      ;; A position just below a frame may be rounded onto it.
      (local.set $low (i32.trunc_f64_s (f64.floor (local.get $place))))
      (if (i32.ge_s (local.get $low) (local.get $phases))
        (then (local.set $low (i32.sub (local.get $phases) (i32.const 1)))))
      (local.set $share
        (f32x4.splat (f32.demote_f64 (f64.sub (local.get $place) (f64.convert_i32_s (local.get $low))))))
      (local.set $row (i32.add (local.get $rows) (i32.mul (local.get $low) (local.get $width))))
      (local.set $tap (i32.const 0))
      (loop $between
        (local.set $taps (v128.load (i32.add (local.get $row) (local.get $tap))))
        (v128.store (local.get $tap)
          (f32x4.add (local.get $taps)
            (f32x4.mul (local.get $share)
              (f32x4.sub
                (v128.load (i32.add (i32.add (local.get $row) (local.get $width)) (local.get $tap)))
                (local.get $taps)))))
        (local.set $tap (i32.add (local.get $tap) (i32.const 16)))
        (br_if $between (i32.lt_u (local.get $tap) (local.get $width))))
      (local.set $first
        (i32.add (local.get $source) (i32.shl (i32.trunc_f64_s (local.get $whole)) (i32.const 2))))
      (local.set $c (i32.const 0))
      (loop $channel
        (local.set $from
          (i32.add (local.get $first) (i32.mul (local.get $c) (local.get $sourceStride))))
        (local.set $sum (f32x4.splat (f32.const 0)))
        (local.set $tap (i32.const 0))
        (loop $along
          (local.set $sum
            (f32x4.add (local.get $sum)
              (f32x4.mul
                (v128.load (local.get $tap))
                (v128.load (i32.add (local.get $from) (local.get $tap))))))
          (local.set $tap (i32.add (local.get $tap) (i32.const 16)))
          (br_if $along (i32.lt_u (local.get $tap) (local.get $width))))
        (f32.store
          (i32.add
            (i32.add (local.get $out) (i32.mul (local.get $c) (local.get $outStride)))
            (i32.shl (local.get $i) (i32.const 2)))
          (f32.add
            (f32.add (f32x4.extract_lane 0 (local.get $sum)) (f32x4.extract_lane 1 (local.get $sum)))
            (f32.add (f32x4.extract_lane 2 (local.get $sum)) (f32x4.extract_lane 3 (local.get $sum)))))
        (local.set $c (i32.add (local.get $c) (i32.const 1)))
        (br_if $channel (i32.lt_s (local.get $c) (local.get $channels))))
      (local.set $i (i32.add (local.get $i) (i32.const 1)))
      (br $frame))))
