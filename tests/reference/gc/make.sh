#!/bin/sh
# Makes the GC logs in this folder, each with what `jstat -gc` of the same JVM said once it had come to rest.
# Lines of phases and workers are left out, for size. Run with Debian's openjdk-17-jdk-headless; the numbers differ from run to run, log and jstat of one run belong together.
set -e
cd "$(dirname "$0")"
javac -d /tmp/harbour Harbour.java
for gc in Serial Parallel G1; do
  java -XX:+Use${gc}GC -Xms48m -Xmx96m -Xlog:gc*:file=$gc.log:time,uptime,level,tags -cp /tmp/harbour Harbour 12 > /tmp/harbour/out &
  pid=$!
  while ! grep -q done /tmp/harbour/out; do sleep 0.2; done
  sleep 1
  jstat -gc $pid > $gc.jstat
  kill -9 $pid
  wait $pid || true
  grep -v 'gc,phases\|gc,task\|gc,metaspace\|gc,cpu' $gc.log > /tmp/harbour/log
  cp /tmp/harbour/log $gc.log
done
