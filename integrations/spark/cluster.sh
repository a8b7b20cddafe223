#!/usr/bin/env bash
# A Spark cluster on this machine: a master and two workers, each a process of its own, on the loopback interface. `cluster.sh start` prints its address,
# `cluster.sh stop` ends it. Needs Java, and PySpark in the Python that PYTHON names.
set -euo pipefail
python=${PYTHON:-python3}
state=${CLUSTER:-${TMPDIR:-/tmp}/yarrup-spark-cluster}
port=${PORT:-7077}
deploy=org.apache.spark.deploy

begin() { # name, class, arguments…
    local name=$1
    shift
    setsid "$SPARK_HOME/bin/spark-class" "$@" >"$state/$name.log" 2>&1 &
    echo $! >"$state/$name.pid"
}

wait_for() { # what the log says, name
    for _ in $(seq 120); do
        grep -q "$1" "$state/$2.log" && return
        sleep 0.5
    done
    echo "$2 has not begun: see $state/$2.log" >&2
    exit 1
}

case ${1:-} in
start)
    SPARK_HOME=$("$python" -c 'import os, pyspark; print(os.path.dirname(pyspark.__file__))')
    export SPARK_HOME PYSPARK_PYTHON="$python" SPARK_LOCAL_IP=127.0.0.1
    if compgen -G "$state/*.pid" >/dev/null; then
        echo "a cluster is there already: stop it first" >&2
        exit 1
    fi
    mkdir -p "$state"
    begin master $deploy.master.Master --host 127.0.0.1 --port "$port" --webui-port 0
    wait_for "I have been elected leader" master
    for worker in 1 2; do
        mkdir -p "$state/work-$worker"
        begin "worker-$worker" $deploy.worker.Worker --host 127.0.0.1 --webui-port 0 --cores "${CORES:-1}" --memory 2g \
            --work-dir "$state/work-$worker" "spark://127.0.0.1:$port"
    done
    for worker in 1 2; do
        wait_for "Successfully registered with master" "worker-$worker"
    done
    echo "spark://127.0.0.1:$port"
    ;;
stop)
    for pid in "$state"/*.pid; do
        kill -- "-$(cat "$pid")" 2>/dev/null || true
    done
    rm -rf "$state"
    ;;
*)
    echo "usage: cluster.sh start | stop" >&2
    exit 2
    ;;
esac
